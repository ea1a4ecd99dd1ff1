import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { KEYWORDS } from '../../core/naming/blocks/keyword';
import { fieldsOfRequest } from '../../core/naming/compose';
import type { NamingRequest } from '../../core/naming/shapes';
import { useServer } from '../platform/job';
import { useSettled } from '../platform/useSettled';
import type { ChangedClip, Coming } from '../../core/naming';
import { type ComingRead, Composer, type Preview } from './composer';

/** Milliseconds between two looks at the files of the job, at least. */
const LOOK_AGAIN = 60_000;
const NONE: ChangedClip[] = [];

/** What the bench knows of its plan. */
export interface PlanState {
  composer: Composer;
  preview: Preview | undefined;
  /** Tells one plan from the next, for what is asked of it. */
  made: number;
  error: unknown;
  /** Whether what is shown is of an earlier request. */
  pending: boolean;
  /** Whether it is being made anew, as after a change to the clips. */
  fetching: boolean;
  /** Of clips that are not copied yet, how many are read; null where none are named, or they are not known yet. */
  coming: ComingRead | null;
  again: () => void;
}

/** Makes the plan for a request, anew when the request or the clips change. */
export function usePlan(
  job: string,
  request: NamingRequest,
  columns: readonly string[],
  coming: Coming | null = null,
): PlanState {
  const server = useServer();
  const [composer] = useState(() => new Composer(job));
  useEffect(() => () => composer.end(), [composer]);
  const fields = [...new Set([...fieldsOfRequest(request), ...columns])].sort();
  const data = useQuery({
    queryKey: [fields.includes(KEYWORDS) ? 'namesOfKeywords' : 'names', fields.join(' ')],
    queryFn: () => composer.load(fields),
    placeholderData: keepPreviousData,
    structuralSharing: false,
    staleTime: 0,
    retry: false,
  });
  const ahead = useQuery({
    queryKey: ['comingNames', coming, fields.join(' '), data.dataUpdatedAt],
    queryFn: () => composer.coming(coming!, fields),
    enabled: coming !== null && data.data !== undefined && !data.isPlaceholderData,
    // Of a large card they are read bit by bit, and named as far as they are.
    refetchInterval: ({ state }) => state.data && state.data.read < state.data.of && 50,
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 0,
    retry: false,
  });
  // Nobody tells of what other programs do to files: it is looked for now and then, less often where that takes long.
  const looked = useRef(0);
  const { data: changed = NONE } = useQuery({
    queryKey: ['changedClips'],
    queryFn: async () => {
      const from = performance.now();
      const found = await server.changedClips();
      looked.current = performance.now() - from;
      return found;
    },
    enabled: coming === null && data.data !== undefined,
    refetchInterval: () => Math.max(LOOK_AGAIN, 20 * looked.current),
  });
  // As one text in the key of the plan: of very many, written out at each render, that would take half a frame.
  const told = useMemo(() => JSON.stringify(changed), [changed]);
  const settled = useSettled(JSON.stringify(request), 120);
  const plan = useQuery({
    queryKey: ['namePlan', settled, data.dataUpdatedAt, ahead.dataUpdatedAt, told],
    queryFn: async () => ({
      asked: settled,
      ...(await composer.plan(JSON.parse(settled) as NamingRequest, changed)),
    }),
    enabled:
      data.data !== undefined && !data.isPlaceholderData && (coming === null || ahead.data !== undefined),
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 0,
    retry: false,
  });
  return {
    composer,
    preview: plan.data,
    made: plan.dataUpdatedAt,
    coming: ahead.data ?? null,
    error: data.error ?? ahead.error ?? plan.error,
    // What is shown may be applied while it is asked for anew: the server refuses a plan that is out of date.
    pending: plan.data?.asked !== JSON.stringify(request),
    fetching: plan.isFetching || data.isFetching,
    again: () => void data.refetch(),
  };
}
