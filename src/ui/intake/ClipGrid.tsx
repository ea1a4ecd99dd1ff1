'use client';
import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type PointerEvent, useLayoutEffect, useRef, useState } from 'react';
import { FILMSTRIP } from '../../core/analysis';
import { shownPath } from '../../core/platform/names';
import { formatRate } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useServer } from '../platform/job';
import { formatBytes, plural } from '../platform/format';
import { Tag } from '../platform/Tag';
import styles from './grid.module.css';
import { type LookedClip, type Rectangle, tickRange, touched } from './ticks';

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

/** The clips of a card as pictures, ticked by click, range, rectangle and keyboard. */
export function ClipGrid({ root, folder, clips, size, ticked, tick, play, single }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const [focus, setFocus] = useState(0);
  const [anchor, setAnchor] = useState<string | null>(null);
  const [drawn, setDrawn] = useState<Rectangle | null>(null);
  const drawing = useRef<{
    from: Rectangle;
    before: ReadonlySet<string>;
    off: boolean;
    moved: boolean;
  } | null>(null);
  useLayoutEffect(() => {
    const el = holder.current!;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth - 32));
    watch.observe(el);
    return () => watch.disconnect();
  }, []);
  const columns = Math.max(1, Math.floor((width + GAP) / (SIZES[size] + GAP)));
  const tile = { width: SIZES[size], height: Math.round((SIZES[size] * 9) / 16) + WORDS };
  const layout = { columns, ...tile, gap: GAP };
  const rows = useVirtualizer({
    count: Math.ceil(clips.length / columns),
    getScrollElement: () => holder.current,
    estimateSize: () => tile.height + GAP,
    overscan: 2,
  });
  useLayoutEffect(() => rows.measure(), [tile.height, rows]);
  const order = clips.map((c) => c.path);

  const toggle = (clip: LookedClip, range: boolean): void => {
    const on = range && anchor !== null ? ticked.has(anchor) : !ticked.has(clip.path);
    tick?.(tickRange(ticked, order, range && anchor !== null ? anchor : clip.path, clip.path, on));
    if (!range) setAnchor(clip.path);
  };
  const go = (to: number): void => {
    const n = Math.max(0, Math.min(clips.length - 1, to));
    setFocus(n);
    rows.scrollToIndex(Math.floor(n / columns), { align: 'auto' });
    requestAnimationFrame(() => holder.current?.querySelector<HTMLElement>(`[data-number="${n}"]`)?.focus());
  };
  const press = (e: KeyboardEvent): void => {
    const clip = clips[focus];
    const steps: Record<string, number> = {
      ArrowLeft: focus - 1,
      ArrowRight: focus + 1,
      ArrowUp: focus - columns,
      ArrowDown: focus + columns,
      Home: 0,
      End: clips.length - 1,
    };
    const to = steps[e.key];
    if (to !== undefined) {
      e.preventDefault();
      const n = Math.max(0, Math.min(clips.length - 1, to));
      if (e.shiftKey && clip)
        tick?.(tickRange(ticked, order, clip.path, clips[n]!.path, ticked.has(clip.path)));
      go(n);
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
  /** Where the pointer is, measured from the first tile. */
  const place = (e: PointerEvent): { x: number; y: number } => {
    const box = holder.current!.getBoundingClientRect();
    return { x: e.clientX - box.left - 16, y: e.clientY - box.top + holder.current!.scrollTop - 12 };
  };
  const down = (e: PointerEvent): void => {
    if (!tick || e.button !== 0 || (e.target as HTMLElement).closest('[data-acts]')) return;
    const { x, y } = place(e);
    drawing.current = { from: { x, y, x2: x, y2: y }, before: ticked, off: e.altKey, moved: false };
  };
  const move = (e: PointerEvent): void => {
    const d = drawing.current;
    if (!d) return;
    const { x, y } = place(e);
    if (!d.moved && Math.hypot(x - d.from.x, y - d.from.y) < 6) return;
    d.moved = true;
    holder.current!.setPointerCapture(e.pointerId);
    const r = { ...d.from, x2: x, y2: y };
    setDrawn(r);
    const out = new Set(d.before);
    for (const i of touched(r, clips.length, layout)) {
      if (d.off) out.delete(order[i]!);
      else out.add(order[i]!);
    }
    tick?.(out);
  };
  const up = (e: PointerEvent): void => {
    const d = drawing.current;
    drawing.current = null;
    setDrawn(null);
    if (!d || d.moved) return;
    const number = numberOf(e.target);
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
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={() => {
        drawing.current = null;
        setDrawn(null);
      }}
    >
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {width > 0 &&
          rows.getVirtualItems().map((row) => (
            <div
              key={row.key}
              className={styles.row}
              style={{ transform: `translateY(${row.start}px)`, gap: GAP }}
            >
              {clips.slice(row.index * columns, (row.index + 1) * columns).map((c, i) => {
                const number = row.index * columns + i;
                return (
                  <Tile
                    key={c.path}
                    root={root}
                    folder={folder}
                    clip={c}
                    number={number}
                    width={tile.width}
                    ticked={tick && ticked.has(c.path)}
                    tabbable={number === focus}
                    play={() => play(c)}
                    single={() => single(c)}
                  />
                );
              })}
            </div>
          ))}
        {drawn && (
          <div
            className={styles.drawn}
            style={{
              left: Math.min(drawn.x, drawn.x2),
              top: Math.min(drawn.y, drawn.y2),
              width: Math.abs(drawn.x2 - drawn.x),
              height: Math.abs(drawn.y2 - drawn.y),
            }}
          />
        )}
      </div>
    </div>
  );
}

interface TileProps {
  root: string;
  folder: string;
  clip: LookedClip;
  number: number;
  width: number;
  /** Null where it cannot be ticked yet. */
  ticked: boolean | null;
  tabbable: boolean;
  play: () => void;
  single: () => void;
}

const below = (folder: string, file: string): string => (folder === '' ? file : `${folder}/${file}`);

/** The file that shows a clip soonest: the camera's own proxy where there is one. */
export const shownFile = (folder: string, clip: LookedClip): string =>
  below(folder, (clip.files.find((f) => f.role === 'cameraProxy') ?? clip.files[0]!).path);

/** The still at a share of the row: eight of them are shown. */
const stillAt = <T,>(stills: readonly T[], share: number): T =>
  stills[
    Math.min(stills.length - 1, Math.floor(share * Math.min(8, stills.length)) * Math.ceil(stills.length / 8))
  ]!;

function Tile({ root, folder, clip, number, width, ticked, tabbable, play, single }: TileProps) {
  const server = useServer();
  const [share, setShare] = useState(0);
  const [broken, setBroken] = useState<'proxy' | 'original' | null>(null);
  const original = below(folder, clip.path);
  const facts = useQuery({
    queryKey: ['lookedFacts', root, original, clip.bytes],
    queryFn: () => server.lookedFacts(root, original),
    retry: false,
    staleTime: Infinity,
  }).data;
  const stills = clip.files.filter((f) => f.role === 'original' || f.role === 'still');
  const height = Math.round((width * 9) / 16);
  // A row of stills is shown still by still, a video by its filmstrip.
  const shown =
    clip.kind === 'stills'
      ? below(folder, stillAt(stills, share).path)
      : broken === 'proxy'
        ? original
        : shownFile(folder, clip);
  const at = clip.kind === 'video' ? Math.min(FILMSTRIP.tiles - 1, Math.floor(share * FILMSTRIP.tiles)) : 0;
  const length =
    clip.kind === 'stills'
      ? plural(stills.length, 'still')
      : facts && facts.seconds !== null
        ? formatRunningTime(facts.seconds)
        : '';
  const rate = facts?.rate
    ? `${formatRate(facts.rate)} fps`
    : facts?.channels && clip.kind === 'sound'
      ? `${facts.channels} channels`
      : '';
  const parts = clip.files.filter((f) => f.role === 'segment').length;
  const apart = clip.files.filter((f) => f.role === 'sound').length;
  return (
    <div
      role="option"
      aria-selected={ticked ?? false}
      tabIndex={tabbable ? 0 : -1}
      data-number={number}
      className={styles.tile}
      style={{ width }}
      onDoubleClick={play}
      aria-label={`${clip.stem}${ticked ? ', ticked' : ''}${clip.here ? `, in the job as ${clip.here.name}` : ''}`}
    >
      <div
        className={styles.picture}
        style={{ height }}
        onPointerLeave={() => setShare(0)}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          setShare(Math.max(0, Math.min(0.999, (e.clientX - box.left) / box.width)));
        }}
      >
        {clip.kind === 'sound' ? (
          <SoundMark />
        ) : facts?.fault || broken === 'original' ? (
          <span className={styles.blank}>{facts?.fault ? 'cannot be fully read' : 'no picture'}</span>
        ) : (
          <img
            src={server.lookedStripUrl(root, shown)}
            alt=""
            draggable={false}
            onError={() => setBroken(shown === original || clip.kind === 'stills' ? 'original' : 'proxy')}
            style={{
              height,
              transform: `translateX(-${at * ((height * FILMSTRIP.width) / FILMSTRIP.height)}px)`,
            }}
          />
        )}
        {ticked !== null && (
          <span className={styles.tick} data-on={ticked ? '' : undefined} aria-hidden="true">
            {ticked ? '✓' : ''}
          </span>
        )}
        {share > 0 && clip.kind === 'video' && (
          <i className={styles.head} style={{ left: `${share * 100}%` }} />
        )}
        {clip.kind !== 'still' && clip.kind !== 'stills' && !facts?.fault && facts?.seconds !== null && (
          // For the pointer alone: what is in an option is no control of its own. Enter plays, too.
          <span aria-hidden="true" data-acts className={styles.play} title="Play" onClick={play}>
            ▶
          </span>
        )}
        {clip.kind === 'stills' && (
          <span aria-hidden="true" data-acts className={styles.apart} onClick={single}>
            as single stills
          </span>
        )}
      </div>
      <div className={styles.words}>
        <strong className="figures" title={shownPath(clip.path)}>
          {clip.stem}
        </strong>
        <span className="figures">{[length, rate, formatBytes(clip.bytes)].filter(Boolean).join(' · ')}</span>
        <span className={styles.marks}>
          {clip.here && (
            <Tag tone="plain" title={clip.here.name}>
              is {clip.here.card}: {clip.here.name}
            </Tag>
          )}
          {facts?.fault && (
            <Tag tone="stop" title={facts.fault}>
              {facts.fault.replace(/^\S+ /, '').split(':')[0]}
            </Tag>
          )}
          {clip.missing.length > 0 && (
            <Tag tone="look">
              {clip.missing.slice(0, 2).join(', ')}
              {clip.missing.length > 2 ? ' …' : ''} missing
            </Tag>
          )}
          {parts > 0 && <Tag tone="plain">{parts + 1} segments</Tag>}
          {clip.kind === 'sound' && apart > 0 && <Tag tone="plain">{apart + 1} files of tracks</Tag>}
          {clip.files.some((f) => f.role === 'motion') && <Tag tone="plain">with its film</Tag>}
          {!clip.here && facts?.start && <span className="soft figures">{facts.start}</span>}
        </span>
      </div>
    </div>
  );
}

/** Sound has no picture: three waves. */
function SoundMark() {
  return (
    <svg viewBox="0 0 120 40" className={styles.sound} aria-hidden="true">
      {[0.3, 0.7, 0.5, 1, 0.6, 0.8, 0.35, 0.9, 0.55, 0.25, 0.65, 0.45].map((h, i) => (
        <rect key={i} x={i * 10 + 3} y={20 - h * 17} width="4" height={h * 34} rx="2" />
      ))}
    </svg>
  );
}
