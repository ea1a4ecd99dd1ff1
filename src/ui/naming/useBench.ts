import { useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { JobView } from '../../core/jobs';
import type { Coming } from '../../core/naming';
import type { RowFilter } from '../../core/naming/compose';
import type { NamingRequest } from '../../core/naming/shapes';
import { handedOn } from '../platform/handedOn';
import { useServer } from '../platform/job';
import { useUndoable } from '../shell';
import type { Column } from './TypedCell';
import type { Composition } from './useComposition';
import { usePlan } from './usePlan';
import { useRenaming } from './useRenaming';
import { useSelection } from './useSelection';
import { useTyped } from './useTyped';

export type BenchState = ReturnType<typeof useBench>;

/** Which clips are named, what of the list is seen and selected, and what can be done with it. */
export function useBench(job: JobView, composition: Composition, coming: Coming | null) {
  const server = useServer();
  const params = useSearchParams();
  const asked = params.get('card');
  const [chosenCards, setChosenCards] = useState<string[]>(asked ? [asked] : []);
  const [chosenClips, setChosenClips] = useState<string[]>(() => (params.has('chosen') ? handedOn() : []));
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [filter, setFilter] = useState<RowFilter>('all');
  const [columns, setColumns] = useState<readonly Column[]>([]);
  const request: NamingRequest = {
    convention: composition.convention,
    folderPlan: composition.folderPlan,
    ...composition.naming,
    cards: chosenCards,
    clips: chosenClips,
    without: [...without],
  };
  const plan = usePlan(
    job.code,
    request,
    columns.map((c) => c.field),
    coming,
  );
  const { composer } = plan;
  const selection = useSelection(composer, filter);
  const said = useUndoable(server.undoSaid, null);
  const typed = useTyped(composer, filter, columns, said);
  const renaming = useRenaming(request, plan);
  return {
    chosenCards,
    setChosenCards,
    chosenClips,
    setChosenClips,
    without,
    setWithout,
    filter,
    setFilter,
    columns,
    setColumns,
    plan,
    selection,
    said,
    typed,
    renaming,
  };
}
