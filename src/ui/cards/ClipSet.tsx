'use client';
import {
  type KeyboardEvent,
  memo,
  type MouseEvent,
  type ReactNode,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Found, Tile, Wanted } from '../../core/choose';
import { isMoving } from '../../core/intake';
import { formatRate } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { PairMark } from '../platform/PairMark';
import { FrameTile, tileHeight } from './FrameTile';
import styles from './frames.module.css';
import { type Point, useHoverPreview } from './HoverPreview';
import { fitting, layLines, type Line, lineOf, vertical } from './lines';
import { SHELF, Spine } from './Spine';
import shelves from './spines.module.css';
import { useFound, useTiles } from './useTiles';

export type SetView = 'frames' | 'spines' | 'table';

/** Pixels between two tiles, and the height of a line of the table. */
const [BETWEEN, ENTRY] = [10, 30];

export interface SetProps {
  wanted: Wanted;
  view: SetView;
  /** Width of a tile, pixels. */
  size: number;
  chosen: ReadonlySet<string>;
  focus: string | null;
  choose: (chosen: ReadonlySet<string>, focus: string | null) => void;
  keywords: ReadonlyMap<string, string>;
  /** Makes a clip one that can be dragged: gives what is put on its element. */
  Draggable?: (props: { id: string; children: (drag: Record<string, unknown>) => ReactNode }) => ReactNode;
}

/** A set of clips as a sheet of frames, as spines or as a table, however many there are; the selection is the same in all. */
export function ClipSet(props: SetProps) {
  const { wanted, view } = props;
  const found = useFound(wanted, view === 'spines');
  // Until it is there, what was shown before stays, and is not drawn anew.
  const [shown, setShown] = useState(wanted);
  if (shown !== wanted && !found.isPlaceholderData) setShown(wanted);
  return <Shown {...props} wanted={shown} found={found.data} />;
}

const Shown = memo(function Shown(props: SetProps & { found: Found | undefined }) {
  const { wanted, found, view, size, chosen, focus, Draggable } = props;
  const holder = useRef<HTMLDivElement>(null);
  const width = useWidth(holder);
  const columns = Math.max(1, Math.floor((width + BETWEEN) / (size + BETWEEN)));
  const tile = Math.floor((width + BETWEEN) / columns) - BETWEEN;
  const lines = useMemo((): Line[] => {
    if (!found || width <= 0) return [];
    const groups = { groups: found.groups, heads: wanted.by !== 'none' };
    if (view === 'table') return layLines(groups, ENTRY, () => 1);
    return view === 'frames'
      ? layLines(groups, tileHeight(tile) + BETWEEN, () => columns)
      : layLines(groups, SHELF, fitting(found.lengths ?? [], width - 16));
  }, [found, view, columns, tile, width, wanted.by]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => holder.current,
    estimateSize: (i) => lines[i]?.height ?? ENTRY,
    overscan: 3,
  });
  useEffect(() => virtual.measure(), [lines, virtual]);
  const inSight = virtual.getVirtualItems().flatMap((v) => lines[v.index] ?? []);
  const rows = inSight.filter((l) => l.kind === 'row');
  const tiles = useTiles(wanted, view === 'spines', [rows[0]?.from ?? 0, rows.at(-1)?.to ?? 0]);
  const walk = useWalk(props, { lines, at: tiles.at, to: (line) => virtual.scrollToIndex(line) });
  const { preview, point, leave } = useHoverPreview('up');
  return (
    <div className={styles.whole}>
      {view === 'table' && <Columns />}
      <div
        ref={holder}
        className={styles.holder}
        role="listbox"
        aria-label="Clips"
        aria-multiselectable="true"
        tabIndex={-1}
        onKeyDown={walk.press}
        onClick={walk.clicked}
      >
        <ErrorNotice error={tiles.error} />
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((v) => {
            const line = lines[v.index];
            return line ? (
              <LineOf
                key={v.key}
                {...{ line, view, chosen, focus, point, leave, Draggable }}
                top={v.start}
                clips={line.kind === 'row' ? tiles.between(line.from, line.to) : NONE}
                width={tile}
                keywords={props.keywords}
              />
            ) : null;
          })}
        </div>
        {preview}
      </div>
    </div>
  );
});

/** What the columns of the table are. */
const Columns = () => (
  <div className={`${styles.entry} ${styles.columns}`} aria-hidden="true">
    {['Name', 'Card', 'Start', 'Length', 'Rate', 'Pair', 'Keywords'].map((c) => (
      <span key={c}>{c}</span>
    ))}
  </div>
);

function useWidth(holder: React.RefObject<HTMLDivElement | null>): number {
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const el = holder.current!;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth - 32));
    watch.observe(el);
    return () => watch.disconnect();
  }, [holder]);
  return width;
}

const NONE: readonly null[] = [];

interface LineProps extends Pick<SetProps, 'view' | 'chosen' | 'focus' | 'keywords' | 'Draggable'> {
  line: Line;
  /** Where it stands, and how wide each of its clips is. Pixels. */
  top: number;
  width: number;
  /** What stands on it; null is still fetched. */
  clips: readonly (Tile | null)[];
  point: Point;
  leave: () => void;
}

/** Whether a line would be drawn as it is. */
function sameLine({ clips, ...a }: LineProps, { clips: others, ...b }: LineProps): boolean {
  return (
    (Object.keys(a) as (keyof typeof a)[]).every((k) => a[k] === b[k]) &&
    clips.length === others.length &&
    clips.every((c, i) => c === others[i])
  );
}

/** A line of clips, or the name of a group. While others come into sight it is not drawn anew. */
const LineOf = memo(function LineOf({ line, top, view, clips, chosen, focus, Draggable, ...of }: LineProps) {
  const place = { transform: `translateY(${top}px)`, height: line.height };
  if (line.kind === 'head')
    return (
      <div className={`${styles.line} ${styles.head}`} style={place} role="presentation">
        {line.name === '' ? 'None' : line.name} <span className="soft">{plural(line.clips, 'clip')}</span>
      </div>
    );
  const children = clips.map((clip, i) => {
    const place = line.from + i;
    if (!clip)
      return (
        <div
          key={place}
          className={styles.blank}
          style={{ width: view === 'spines' ? 60 : of.width, height: 60 }}
        />
      );
    const one = (drag: Record<string, unknown> | undefined) => (
      <One
        key={place}
        {...{ clip, place, view, drag, ...of }}
        chosen={chosen.has(clip.id)}
        tabbable={clip.id === focus || (focus === null && place === 0)}
      />
    );
    return Draggable ? (
      <Draggable key={place} id={clip.id}>
        {one}
      </Draggable>
    ) : (
      one(undefined)
    );
  });
  return view === 'spines' ? (
    <div className={shelves.shelf} style={place} role="presentation">
      <div className={shelves.row} role="presentation">
        {children}
      </div>
      <div className={shelves.board} />
    </div>
  ) : (
    <div className={styles.line} style={place} role="presentation">
      {children}
    </div>
  );
}, sameLine);

interface OneProps {
  clip: Tile;
  place: number;
  view: SetView;
  width: number;
  chosen: boolean;
  tabbable: boolean;
  keywords: ReadonlyMap<string, string>;
  drag: Record<string, unknown> | undefined;
  point: Point;
  leave: () => void;
}

function One({ view, place, drag, point, leave, ...of }: OneProps) {
  const { clip, chosen, tabbable } = of;
  if (view === 'frames') return <FrameTile {...of} tile={clip} place={place} drag={drag} />;
  const hover = { onPointerMove: point(clip), onPointerLeave: leave };
  return view === 'spines' ? (
    <Spine
      {...{ clip, chosen, tabbable, ...hover }}
      {...drag}
      data-place={place}
      worst={clip.worst}
      number={place + 1}
    />
  ) : (
    <Entry {...of} drag={{ ...hover, ...drag, 'data-place': place }} />
  );
}

/** A clip as a line of the table. */
function Entry({
  clip,
  chosen,
  tabbable,
  keywords,
  drag,
}: Omit<OneProps, 'view' | 'place' | 'point' | 'leave'>) {
  return (
    <div
      role="option"
      aria-selected={chosen}
      tabIndex={tabbable ? 0 : -1}
      data-clip={clip.id}
      className={styles.entry}
      {...drag}
    >
      <span className="figures">{clip.name}</span>
      <span className="figures">{clip.card}</span>
      <span className="figures">{clip.start ?? '–'}</span>
      <span className="figures">{clip.seconds === null ? '–' : formatRunningTime(clip.seconds)}</span>
      <span className="figures">{clip.rate ? formatRate(clip.rate) : '–'}</span>
      <span>
        {clip.state === 'read' && isMoving(clip.kind) && <PairMark state={clip.pair} words size={15} />}
      </span>
      <span>{clip.keywords.flatMap((k) => keywords.get(k) ?? []).join(', ')}</span>
    </div>
  );
}

/** Where the set stands: its lines, its clips, and the way to a line. */
interface Standing {
  lines: readonly Line[];
  at: (place: number) => Tile | null;
  to: (line: number) => void;
}

/** Choosing by pointer and by keyboard: the place that was chosen last, and the one a stretch begins at. */
function useWalk({ wanted, chosen, focus, choose }: SetProps, { lines, at, to }: Standing) {
  const server = useServer();
  const [place, setPlace] = useState<number | null>(null);
  const [begun, setBegun] = useState(0);
  // Where one was among other clips says nothing of these.
  const key = JSON.stringify(wanted);
  const [of, setOf] = useState(key);
  if (of !== key) {
    setOf(key);
    setPlace(null);
  }
  const end = lines.at(-1);
  const last = end?.kind === 'row' ? end.to - 1 : -1;
  const stretch = async (a: number, b: number): Promise<string[]> => {
    const [from, end] = [Math.min(a, b), Math.max(a, b) + 1];
    const here = Array.from({ length: end - from }, (_, i) => at(from + i)?.id);
    return here.every((id) => id !== undefined)
      ? here
      : server.findIds({ ...wanted, offset: from, limit: end - from });
  };
  const go = async (next: number, shift: boolean) => {
    setPlace(next);
    to(lineOf(lines, next));
    if (!shift) setBegun(next);
    const ids = await stretch(shift ? begun : next, next);
    const target = next >= (shift ? begun : next) ? ids.at(-1) : ids[0];
    if (target === undefined) return;
    choose(new Set(ids), target);
    requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-clip="${target}"]`)?.focus());
  };
  const press = (e: KeyboardEvent) => {
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a') {
      e.preventDefault();
      void server.findIds(wanted).then((ids) => choose(new Set(ids), focus));
      return;
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    // From the clip that has the focus: after a reload, or by Tab, it was gone to by no step of this list.
    const { dataset } = (e.target as HTMLElement).closest<HTMLElement>('[data-place]') ?? {};
    const now = dataset ? Number(dataset.place) : (place ?? 0);
    const moves: Partial<Record<string, () => number>> = {
      ArrowRight: () => now + 1,
      ArrowLeft: () => now - 1,
      ArrowDown: () => vertical(lines, now, 1),
      ArrowUp: () => vertical(lines, now, -1),
      Home: () => 0,
      End: () => last,
      Enter: () => now,
    };
    const move = moves[e.key];
    if (!move || last < 0) return;
    e.preventDefault();
    const first = focus === null || (!dataset && place === null);
    void go(Math.max(0, Math.min(last, first ? now : move())), e.shiftKey);
  };
  const click = (next: number, id: string, e: MouseEvent) => {
    setPlace(next);
    if (e.shiftKey) return void stretch(begun, next).then((ids) => choose(new Set(ids), id));
    setBegun(next);
    if (!e.ctrlKey && !e.metaKey) return choose(new Set([id]), id);
    const other = new Set(chosen);
    if (!other.delete(id)) other.add(id);
    choose(other, id);
  };
  /** The clip that is clicked within the set: no clip listens by itself. */
  const clicked = (e: MouseEvent) => {
    const { dataset } = (e.target as HTMLElement).closest<HTMLElement>('[data-place]') ?? {};
    if (dataset) click(Number(dataset.place), dataset.clip!, e);
  };
  return { press, clicked };
}
