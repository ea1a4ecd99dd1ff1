import { useMemo } from 'react';
import type { ChangeAsked } from '../platform/client';
import { useServer } from '../platform/job';
import { type Undoable, useUndoable } from '../shell';

/** Changes as they are made here. */
export interface Changes extends Undoable {
  /** The ways to change something: the same as long as the screen is there. */
  acts: Acts;
}

export interface Acts extends Pick<Undoable, 'run'> {
  change: (change: ChangeAsked) => void;
}

export function useChanges(): Changes {
  const server = useServer();
  const undoable = useUndoable(server.undoChoice, 'choose');
  const { run } = undoable;
  const acts = useMemo(
    () => ({ run, change: (c: ChangeAsked) => run(() => server.changeChoice(c)) }),
    [run, server],
  );
  return { ...undoable, acts };
}
