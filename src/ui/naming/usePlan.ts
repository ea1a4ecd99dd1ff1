import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { fieldsOfRequest } from '../../core/naming/compose';
import type { NamingRequest } from '../../core/naming/shapes';
import { useSettled } from '../platform/useSettled';
import { Composer, type Preview } from './composer';

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
  again: () => void;
}

/** Makes the plan for a request, anew when the request or the clips change. */
export function usePlan(job: string, request: NamingRequest, columns: readonly string[]): PlanState {
  const [composer] = useState(() => new Composer(job));
  useEffect(() => () => composer.end(), [composer]);
  const fields = [...new Set([...fieldsOfRequest(request), ...columns])].sort();
  const data = useQuery({
    queryKey: ['names', fields.join(' ')],
    queryFn: () => composer.load(fields),
    placeholderData: keepPreviousData,
    structuralSharing: false,
    staleTime: 0,
    retry: false,
  });
  const settled = useSettled(JSON.stringify(request), 120);
  const plan = useQuery({
    queryKey: ['namePlan', settled, data.dataUpdatedAt],
    queryFn: async () => ({
      asked: settled,
      ...(await composer.plan(JSON.parse(settled) as NamingRequest)),
    }),
    enabled: data.data !== undefined && !data.isPlaceholderData,
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 0,
    retry: false,
  });
  return {
    composer,
    preview: plan.data,
    made: plan.dataUpdatedAt,
    error: data.error ?? plan.error,
    // What is shown may be applied while it is asked for anew: the server refuses a plan that is out of date.
    pending: plan.data?.asked !== JSON.stringify(request),
    fetching: plan.isFetching || data.isFetching,
    again: () => void data.refetch(),
  };
}
