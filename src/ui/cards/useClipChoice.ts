import { useCallback, useEffect, useState } from 'react';
import type { ClipView } from '../../core/cards/shapes';
import { isTyping } from '../shell';
import type { SetView } from './ClipSet';

type Held = Pick<MouseEvent, 'shiftKey' | 'ctrlKey' | 'metaKey'>;

/** Which clips of a card are chosen, and which of them is open: by clicks with Shift or Ctrl, and by keys. `changed` is told of these. */
export function useClipChoice(
  clips: readonly ClipView[],
  { first, view, changed }: { first: string | null; view: SetView; changed: () => void },
) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(first ? [first] : []));
  const [focus, setFocus] = useState<string | null>(first);
  const [anchor, setAnchor] = useState<string | null>(first);

  const choose = useCallback(
    (to: string, { shiftKey, ctrlKey, metaKey }: Held) => {
      changed();
      setFocus(to);
      if (shiftKey) {
        const ends = [anchor ?? to, to].map((id) => clips.findIndex((c) => c.id === id));
        return setChosen(
          new Set(clips.slice(Math.max(0, Math.min(...ends)), Math.max(...ends) + 1).map((c) => c.id)),
        );
      }
      setAnchor(to);
      setChosen((old) => {
        if (!ctrlKey && !metaKey) return new Set([to]);
        const next = new Set(old);
        if (!next.delete(to)) next.add(to);
        return next;
      });
    },
    [clips, anchor, changed],
  );

  // The first clip is open from the start: the drawer is never empty while there is something to see.
  if (focus === null && clips[0]) {
    setFocus(clips[0].id);
    setChosen(new Set([clips[0].id]));
    setAnchor(clips[0].id);
  }

  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e)) return;
      if (view !== 'frames' && (e.ctrlKey || e.metaKey) && e.key === 'a') {
        e.preventDefault();
        setChosen(new Set(clips.map((c) => c.id)));
        return;
      }
      if (view !== 'spines' || e.ctrlKey || e.metaKey || e.altKey) return;
      const at = clips.findIndex((c) => c.id === focus);
      const to = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: clips.length - 1 }[e.key];
      const next = to === undefined ? undefined : clips[Math.max(0, Math.min(clips.length - 1, to))];
      if (!next) return;
      e.preventDefault();
      choose(next.id, { shiftKey: e.shiftKey, ctrlKey: false, metaKey: false });
      requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-clip="${next.id}"]`)?.focus());
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [clips, focus, choose, view]);

  const take = useCallback((ids: Iterable<string>, at: string | null) => {
    setChosen(new Set(ids));
    if (at) setFocus(at);
  }, []);
  return { chosen, focus, choose, take };
}
