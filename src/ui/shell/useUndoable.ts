import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Changed } from '../../core/platform/shapes';
import { isTyping } from './Shell';

/** What is done here, as it is done: the last of it is said, and can be undone and done again by the usual keys. */
export interface Undoable {
  /** Does something, after what was begun before: the same as long as the screen is there. */
  run: (work: () => Promise<Changed>) => void;
  /** Tells of something that was done, which is said but where it was seen as it was done: the same, too. */
  did: (changed: Changed, how?: { seen: boolean }) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
  said: string | null;
  /** What takes back what is said, and nothing else: null where it has no way back. */
  back: 'undo' | 'redo' | null;
  say: (words: string | null) => void;
  error: unknown;
  forgetError: () => void;
}

/** What was done, and what was undone, the last of each at the end. */
interface Stacks {
  done: readonly string[];
  undone: readonly string[];
}

/** `takeBack` undoes what has this id, and answers how that is undone; `touched` is asked for anew after each change. */
export function useUndoable(takeBack: (id: string) => Promise<Changed>, touched: string | null): Undoable {
  const queries = useQueryClient();
  const [last, setLast] = useState<Pick<Undoable, 'said' | 'back'>>({ said: null, back: null });
  const say = useCallback((said: string | null) => setLast({ said, back: null }), []);
  const [error, setError] = useState<unknown>(null);
  const stacks = useRef<Stacks>({ done: [], undone: [] });
  const [can, setCan] = useState({ undo: false, redo: false });
  const before = useRef<Promise<void>>(Promise.resolve());
  /** One after the other, in the order of the keys: none is dropped while another is under way. */
  const inTurn = useCallback(
    (
      work: () => Promise<Changed> | null,
      after: (undo: string | null) => Partial<Stacks>,
      how: { seen: boolean; way: 'undo' | 'redo' },
    ) => {
      before.current = before.current.then(async () => {
        try {
          const changed = await work();
          if (!changed) return;
          stacks.current = { ...stacks.current, ...after(changed.undo) };
          setLast({ said: how.seen ? null : changed.text, back: changed.undo === null ? null : how.way });
          setError(null);
        } catch (e) {
          setError(e);
        }
        setCan({ undo: stacks.current.done.length > 0, redo: stacks.current.undone.length > 0 });
        if (touched !== null) void queries.invalidateQueries({ queryKey: [touched] });
      });
    },
    [queries, touched],
  );
  const run = useCallback(
    (work: () => Promise<Changed>, { seen } = { seen: false }) =>
      inTurn(work, (undo) => (undo === null ? {} : { done: [...stacks.current.done, undo], undone: [] }), {
        seen,
        way: 'undo',
      }),
    [inTurn],
  );
  const did = useCallback<Undoable['did']>((changed, how) => run(() => Promise.resolve(changed), how), [run]);
  const back = (from: keyof Stacks, to: keyof Stacks) =>
    inTurn(
      () => {
        const id = stacks.current[from].at(-1);
        if (id === undefined) return null;
        // What cannot be undone is not tried again.
        stacks.current = { ...stacks.current, [from]: stacks.current[from].slice(0, -1) };
        return takeBack(id);
      },
      (undo) => (undo === null ? {} : { [to]: [...stacks.current[to], undo] }),
      { seen: false, way: to === 'done' ? 'undo' : 'redo' },
    );
  const undo = () => back('done', 'undone');
  const redo = () => back('undone', 'done');
  useUndoKeys(undo, redo);
  const ways = useMemo(() => ({ run, did }), [run, did]);
  return {
    ...ways,
    ...last,
    ...{ undo, redo, say, error },
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
