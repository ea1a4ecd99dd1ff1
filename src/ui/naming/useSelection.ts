import { useState } from 'react';
import type { RowFilter } from '../../core/naming/compose';
import type { Composer } from './composer';

/** Which lines of the list are selected: one, several, or up to another. `anchor` is the one that was selected last. */
export function useSelection(composer: Composer, filter: RowFilter) {
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [anchor, setAnchor] = useState(0);
  const select = async (clip: string, index: number, how: 'one' | 'more' | 'upTo') => {
    if (how === 'upTo') {
      const rows = await composer.rows(filter, Math.min(anchor, index), Math.max(anchor, index) + 1);
      setSelected(new Set(rows.map((r) => r.clipId)));
      return;
    }
    setAnchor(index);
    setSelected((old) => {
      if (how === 'one') return old.size === 1 && old.has(clip) ? new Set() : new Set([clip]);
      const next = new Set(old);
      if (!next.delete(clip)) next.add(clip);
      return next;
    });
  };
  return { selected, setSelected, anchor, select };
}
