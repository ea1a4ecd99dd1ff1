import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Changed } from '../../core/choose';
import type { ChangeAsked } from '../platform/client';
import { useServer } from '../platform/job';
import { isTyping } from '../shell';

/** Changes as they are made here: what was done last is said, and can be undone and done again by the usual keys. */
export interface Changes {
  /** The ways to change something: the same as long as the screen is there. */
  acts: Acts;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
  said: string | null;
  say: (words: string | null) => void;
  error: unknown;
  forgetError: () => void;
}

export interface Acts {
  change: (change: ChangeAsked) => void;
  run: (work: () => Promise<Changed>) => void;
}

/** What was done, and what was undone, the last of each at the end. */
interface Stacks {
  done: readonly string[];
  undone: readonly string[];
}

export function useChanges(): Changes {
  const server = useServer();
  const queries = useQueryClient();
  const [said, say] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const stacks = useRef<Stacks>({ done: [], undone: [] });
  const [can, setCan] = useState({ undo: false, redo: false });
  const last = useRef<Promise<void>>(Promise.resolve());
  /** One after the other, in the order of the keys: none is dropped while another is under way. */
  const inTurn = useCallback(
    (work: () => Promise<Changed> | null, after: (undo: string | null) => Partial<Stacks>) => {
      last.current = last.current.then(async () => {
        try {
          const changed = await work();
          if (!changed) return;
          stacks.current = { ...stacks.current, ...after(changed.undo) };
          say(changed.text);
          setError(null);
        } catch (e) {
          setError(e);
        }
        setCan({ undo: stacks.current.done.length > 0, redo: stacks.current.undone.length > 0 });
        void queries.invalidateQueries({ queryKey: ['choose'] });
      });
    },
    [queries],
  );
  const run = useCallback(
    (work: () => Promise<Changed>) =>
      inTurn(work, (undo) => (undo === null ? {} : { done: [...stacks.current.done, undo], undone: [] })),
    [inTurn],
  );
  const change = useCallback((c: ChangeAsked) => run(() => server.changeChoice(c)), [run, server]);
  const acts = useMemo(() => ({ change, run }), [change, run]);
  const back = (from: keyof Stacks, to: keyof Stacks) =>
    inTurn(
      () => {
        const id = stacks.current[from].at(-1);
        if (id === undefined) return null;
        // What cannot be undone is not tried again.
        stacks.current = { ...stacks.current, [from]: stacks.current[from].slice(0, -1) };
        return server.undoChoice(id);
      },
      (undo) => (undo === null ? {} : { [to]: [...stacks.current[to], undo] }),
    );
  const undo = () => back('done', 'undone');
  const redo = () => back('undone', 'done');
  useUndoKeys(undo, redo);
  return {
    ...{ acts, undo, redo, said, say, error },
    canUndo: can.undo,
    canRedo: can.redo,
    forgetError: () => setError(null),
  };
}

function useUndoKeys(undo: () => void, redo: () => void): void {
  const now = useRef({ undo, redo });
  useEffect(() => {
    now.current = { undo, redo };
  });
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e) || !(e.ctrlKey || e.metaKey) || e.altKey) return;
      const key = e.key.toLowerCase();
      const again = (key === 'z' && e.shiftKey) || key === 'y';
      if (key !== 'z' && !again) return;
      e.preventDefault();
      if (again) now.current.redo();
      else now.current.undo();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}
