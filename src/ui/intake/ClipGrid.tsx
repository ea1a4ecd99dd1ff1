'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  type KeyboardEvent,
  type PointerEvent,
  type RefObject,
  useLayoutEffect,
  useRef,
  useState,
} from 'react';
import styles from './grid.module.css';
import { type LookedClip, type Rectangle, tickRange } from './ticks';
import { Tile } from './Tile';
import { useRectangle } from './useRectangle';

export const SIZES = { small: 132, medium: 196, large: 280 } as const;
export type Size = keyof typeof SIZES;
const GAP = 10;
/** What is beneath the picture, pixels. */
const WORDS = 62;

interface Props {
  root: string;
  /** The card's folder below the root. */
  folder: string;
  clips: readonly LookedClip[];
  size: Size;
  ticked: ReadonlySet<string>;
  /** Null where nothing can be ticked yet. */
  tick: ((ticked: Set<string>) => void) | null;
  play: (clip: LookedClip) => void;
  single: (clip: LookedClip) => void;
}

/** Which tile something is in. */
const numberOf = (at: EventTarget): number | null => {
  const number = (at as HTMLElement).closest<HTMLElement>('[data-number]')?.dataset.number;
  return number === undefined ? null : Number(number);
};

/** The tile that a key leads to, of those up to `last`; null for other keys. */
function stepTo(key: string, at: { from: number; columns: number; last: number }): number | null {
  const steps: Record<string, number> = {
    ArrowLeft: at.from - 1,
    ArrowRight: at.from + 1,
    ArrowUp: at.from - at.columns,
    ArrowDown: at.from + at.columns,
    Home: 0,
    End: at.last,
  };
  const to = steps[key];
  return to === undefined ? null : Math.max(0, Math.min(at.last, to));
}

/** Pixels that tiles may take side by side. */
function useWidth(holder: RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const el = holder.current!;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth - 32));
    watch.observe(el);
    return () => watch.disconnect();
  }, [holder]);
  return width;
}

/** The clips of a card as pictures, ticked by click, range, rectangle and keyboard. */
export function ClipGrid({ root, folder, clips, size, ticked, tick, play, single }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const width = useWidth(holder);
  const [focus, setFocus] = useState(0);
  const [anchor, setAnchor] = useState<string | null>(null);
  const tile = { width: SIZES[size], height: Math.round((SIZES[size] * 9) / 16) + WORDS };
  const columns = Math.max(1, Math.floor((width + GAP) / (tile.width + GAP)));
  const layout = { columns, ...tile, gap: GAP };
  const rows = useVirtualizer({
    count: Math.ceil(clips.length / columns),
    getScrollElement: () => holder.current,
    estimateSize: () => tile.height + GAP,
    overscan: 2,
  });
  useLayoutEffect(() => rows.measure(), [tile.height, rows]);
  const order = clips.map((c) => c.path);

  const rectangle = useRectangle({ holder, order, layout, ticked, tick });
  const toggle = (clip: LookedClip, range: boolean): void => {
    const on = range && anchor !== null ? ticked.has(anchor) : !ticked.has(clip.path);
    tick?.(tickRange(ticked, order, range && anchor !== null ? anchor : clip.path, clip.path, on));
    if (!range) setAnchor(clip.path);
  };
  const go = (to: number): void => {
    setFocus(to);
    rows.scrollToIndex(Math.floor(to / columns), { align: 'auto' });
    requestAnimationFrame(() => holder.current?.querySelector<HTMLElement>(`[data-number="${to}"]`)?.focus());
  };
  const press = (e: KeyboardEvent): void => {
    const clip = clips[focus];
    const to = stepTo(e.key, { from: focus, columns, last: clips.length - 1 });
    if (to !== null) {
      e.preventDefault();
      if (e.shiftKey && clip)
        tick?.(tickRange(ticked, order, clip.path, clips[to]!.path, ticked.has(clip.path)));
      go(to);
    } else if (e.key === ' ' && clip) {
      e.preventDefault();
      toggle(clip, e.shiftKey);
    } else if (e.key === 'Enter' && clip) play(clip);
    else if (e.key === 's' && !e.ctrlKey && !e.metaKey && clip?.kind === 'stills') single(clip);
    else if (e.key === 'a' && (e.ctrlKey || e.metaKey)) {
      e.preventDefault();
      tick?.(new Set(order));
    }
  };
  const up = (e: PointerEvent): void => {
    const number = rectangle.up() ? null : numberOf(e.target);
    if (number === null) return;
    setFocus(number);
    toggle(clips[number]!, e.shiftKey);
  };
  return (
    <div
      ref={holder}
      className={styles.holder}
      role="listbox"
      aria-label="Clips on the card"
      aria-multiselectable="true"
      onKeyDown={press}
      // Readers of the screen put the focus where they like.
      onFocus={(e) => setFocus(numberOf(e.target) ?? focus)}
      onPointerDown={rectangle.down}
      onPointerMove={rectangle.move}
      onPointerUp={up}
      onPointerCancel={rectangle.drop}
    >
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {width > 0 &&
          rows.getVirtualItems().map((row) => (
            <div key={row.key} className={styles.row} style={{ translate: `0 ${row.start}px`, gap: GAP }}>
              {clips.slice(row.index * columns, (row.index + 1) * columns).map((c, i) => (
                <Tile
                  key={c.path}
                  {...{ root, folder }}
                  clip={c}
                  number={row.index * columns + i}
                  width={tile.width}
                  ticked={tick && ticked.has(c.path)}
                  tabbable={row.index * columns + i === focus}
                  play={() => play(c)}
                  single={() => single(c)}
                />
              ))}
            </div>
          ))}
        {rectangle.drawn && <Drawn {...rectangle.drawn} />}
      </div>
    </div>
  );
}

function Drawn({ x, y, x2, y2 }: Rectangle) {
  return (
    <div
      className={styles.drawn}
      style={{
        left: Math.min(x, x2),
        top: Math.min(y, y2),
        width: Math.abs(x2 - x),
        height: Math.abs(y2 - y),
      }}
    />
  );
}
