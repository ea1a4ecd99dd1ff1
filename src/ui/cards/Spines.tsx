'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  type MouseEvent,
  type PointerEvent,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { isMoving } from '../../core/intake';
import { FILMSTRIP } from '../../core/viewing';
import { formatRate, fps } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import type { ClipView } from '../../core/cards/shapes';
import { useServer } from '../platform/job';
import { PairMark } from '../platform/PairMark';
import { shelve, spineWidth } from './shelve';
import styles from './spines.module.css';

/** Height of a shelf with its board, pixels. */
const ROW = 326;

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
  const [preview, setPreview] = useState<{ clip: ClipView; share: number; x: number; y: number } | null>(
    null,
  );
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
    estimateSize: () => ROW,
    overscan: 2,
  });
  const numbers = useMemo(() => new Map(clips.map((c, i) => [c.id, i + 1])), [clips]);
  useEffect(() => {
    const at = rows.findIndex((r) => r.some((c) => c.id === focus));
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
    // Scrolling follows the choice, not every new layout.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  const point = (clip: ClipView) => (e: PointerEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    setPreview({
      clip,
      share: Math.max(0, Math.min(0.999, 1 - (e.clientY - box.top) / box.height)),
      x: e.clientX,
      y: e.clientY,
    });
  };
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
            style={{ transform: `translateY(${v.start}px)`, height: ROW }}
          >
            <div className={styles.row}>
              {rows[v.index]!.map((c) => (
                <Spine
                  key={c.id}
                  clip={c}
                  number={numbers.get(c.id)!}
                  chosen={chosen.has(c.id)}
                  tabbable={focus === c.id || (focus === null && numbers.get(c.id) === 1)}
                  onClick={(e) => choose(c.id, e)}
                  onPointerMove={point(c)}
                  onPointerLeave={() => setPreview(null)}
                />
              ))}
            </div>
            <div className={styles.board} />
          </div>
        ))}
      </div>
      {preview && <Preview {...preview} />}
    </div>
  );
}

interface SpineProps {
  clip: ClipView;
  number: number;
  chosen: boolean;
  tabbable: boolean;
  onClick: (e: MouseEvent) => void;
  onPointerMove: (e: PointerEvent<HTMLElement>) => void;
  onPointerLeave: () => void;
}

function Spine({ clip, number, chosen, tabbable, ...on }: SpineProps) {
  const rate = clip.rate ? formatRate(clip.rate) : '–';
  const band = !clip.rate
    ? 'unknown'
    : fps(clip.rate) > 60
      ? 'fast'
      : fps(clip.rate) > 30
        ? 'middle'
        : 'plain';
  const worst = clip.problems.some((p) => p.level === 'stop')
    ? 'stop'
    : clip.problems.length > 0
      ? 'look'
      : null;
  // Boxes of several sizes are on a shelf; the height says nothing.
  const height = 246 + ((number * 37) % 18);
  return (
    <div
      role="option"
      aria-selected={chosen}
      tabIndex={tabbable ? 0 : -1}
      data-clip={clip.id}
      className={styles.spine}
      data-band={band}
      style={{ width: spineWidth(clip.seconds), height }}
      {...on}
      aria-label={`${clip.name}, ${rate} fps, ${clip.seconds === null ? 'length not known' : formatRunningTime(clip.seconds)}${worst ? ', to look at' : ''}`}
    >
      {worst && (
        <span className={styles.flag} data-level={worst} aria-hidden="true">
          {worst === 'stop' ? '!' : '?'}
        </span>
      )}
      <span className={`figures ${styles.number}`}>{number}</span>
      <span className={styles.name}>{clip.name}</span>
      <span className={styles.mark}>
        {clip.state === 'read' && isMoving(clip.kind) ? <PairMark state={clip.pair.state} /> : null}
      </span>
      <span className={`figures ${styles.foot}`} data-long={rate.length > 5 ? '' : undefined}>
        {rate}
      </span>
    </div>
  );
}

function Preview({ clip, share, x, y }: { clip: ClipView; share: number; x: number; y: number }) {
  const server = useServer();
  const tile = Math.min(FILMSTRIP.tiles - 1, Math.floor(share * FILMSTRIP.tiles));
  const left = x + FILMSTRIP.width + 40 > window.innerWidth ? x - FILMSTRIP.width - 24 : x + 22;
  return (
    <div
      className={styles.preview}
      style={{ left, top: Math.min(y - 60, window.innerHeight - 210) }}
      aria-hidden="true"
    >
      {clip.filmstrip ? (
        <div
          style={{
            width: FILMSTRIP.width,
            height: FILMSTRIP.height,
            background: `url(${server.filmstripUrl(clip.id)}) -${tile * FILMSTRIP.width}px 0`,
          }}
        />
      ) : (
        <div className={styles.noStrip}>
          {clip.state === 'unreadable'
            ? 'cannot be read'
            : clip.kind === 'sound'
              ? 'sound'
              : clip.state === 'read' && clip.frames === null
                ? 'cannot be shown here'
                : 'no pictures yet'}
        </div>
      )}
      <div className="figures">
        <strong>{clip.name}</strong>
        <br />
        {clip.start ?? 'no timecode'} · {clip.seconds === null ? '' : formatRunningTime(clip.seconds)}
      </div>
    </div>
  );
}
