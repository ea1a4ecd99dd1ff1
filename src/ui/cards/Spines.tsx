'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { ClipView } from '../../core/cards/shapes';
import { useHoverPreview } from './HoverPreview';
import { shelve } from './shelve';
import { SHELF, Spine } from './Spine';
import styles from './spines.module.css';

interface Props {
  clips: readonly ClipView[];
  chosen: ReadonlySet<string>;
  focus: string | null;
  choose: (clip: string, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
}

/** Clips as tape-box spines on shelves, in shooting order. Pointing at one shows its frames, from foot to head of the spine. */
export function Spines({ clips, chosen, focus, choose }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const { preview, point, leave } = useHoverPreview('up');
  useLayoutEffect(() => {
    const el = holder.current!;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth - 32));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const rows = useMemo(() => (width > 0 ? shelve(clips, width) : []), [clips, width]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => holder.current,
    estimateSize: () => SHELF,
    overscan: 2,
  });
  const numbers = useMemo(() => new Map(clips.map((c, i) => [c.id, i + 1])), [clips]);
  useEffect(() => {
    const at = rows.findIndex((r) => r.some((c) => c.id === focus));
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
    // Scrolling follows the choice, not every new layout.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  return (
    <div
      ref={holder}
      className={styles.holder}
      role="listbox"
      aria-label="Clips"
      aria-multiselectable="true"
      tabIndex={-1}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((v) => (
          <div
            key={v.key}
            className={styles.shelf}
            style={{ transform: `translateY(${v.start}px)`, height: SHELF }}
          >
            <div className={styles.row}>
              {rows[v.index]!.map((c) => (
                <Spine
                  key={c.id}
                  clip={{ ...c, pair: c.pair.state }}
                  worst={worstOf(c.problems)}
                  number={numbers.get(c.id)!}
                  chosen={chosen.has(c.id)}
                  tabbable={focus === c.id || (focus === null && numbers.get(c.id) === 1)}
                  onClick={(e) => choose(c.id, e)}
                  onPointerMove={point(c)}
                  onPointerLeave={leave}
                />
              ))}
            </div>
            <div className={styles.board} />
          </div>
        ))}
      </div>
      {preview}
    </div>
  );
}

const worstOf = (problems: ClipView['problems']): 'stop' | 'look' | null =>
  problems.some((p) => p.level === 'stop') ? 'stop' : problems.length > 0 ? 'look' : null;
