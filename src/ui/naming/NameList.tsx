'use client';
import { useDraggable } from '@dnd-kit/core';
import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type CSSProperties, type KeyboardEvent, type MouseEvent, useRef, useState } from 'react';
import type { NamingRow } from '../../core/naming/shapes';
import { plural } from '../platform/format';
import { Tag } from '../platform/Tag';
import type { RowFilter } from '../../core/naming/compose';
import type { Composer, ShownRow } from './composer';
import styles from './naming.module.css';
import { type Column, TypedCell } from './TypedCell';

interface Props {
  composer: Composer;
  /** Which plan the rows are of. */
  made: number;
  filter: RowFilter;
  total: number;
  /** The chosen block, marked in each name. */
  block: string | null;
  without: ReadonlySet<string>;
  toggle: (clip: string) => void;
  selected: ReadonlySet<string>;
  select: (clip: string, index: number, how: 'one' | 'more' | 'upTo') => void;
  columns: readonly Column[];
  /** Whether the rows are only looked at: their clips are not copied yet. */
  still: boolean;
  /** Text typed or pasted in a column, from a row on. */
  say: (column: Column, index: number, text: string) => void;
}

/** Rows are asked for by so many, those in view and around them. */
const CHUNK = 100;

/** Before and after, with every clash and warning in place. Rows are asked for as they come into view. */
export function NameList(props: Props) {
  const { composer, made, filter, total, columns } = props;
  const holder = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => holder.current,
    estimateSize: () => 36,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  /** The row that is reached by the keyboard. */
  const [reached, setReached] = useState(0);
  const first = items.some((v) => v.index === reached) ? reached : (items[0]?.index ?? 0);
  const go = (index: number) => {
    if (index < 0 || index >= total) return;
    setReached(index);
    virtual.scrollToIndex(index);
    const focus = () => {
      const row = holder.current?.querySelector<HTMLElement>(`[aria-rowindex="${index + 2}"]`);
      row?.focus({ preventScroll: true });
      return row;
    };
    // One that is out of sight is there a moment after it was scrolled to.
    if (!focus()) setTimeout(focus, 50);
  };
  const from = Math.floor((items[0]?.index ?? 0) / CHUNK) * CHUNK;
  const to = (Math.floor((items.at(-1)?.index ?? 0) / CHUNK) + 1) * CHUNK;
  const loaded = useQuery({
    queryKey: ['nameRows', filter, made, from, to],
    queryFn: async () => ({ from, rows: await composer.rows(filter, from, to) }),
    // Rows stay while they are made anew, and with them what is typed in them; those of another filter are others.
    placeholderData: (before, query) => (query?.queryKey[1] === filter ? before : undefined),
    structuralSharing: false,
    staleTime: Infinity,
    gcTime: 5000,
    retry: false,
  }).data;
  const rowAt = (index: number): ShownRow | undefined => loaded?.rows[index - loaded.from];
  const grid = [
    '22px minmax(160px, 210px) minmax(180px, 250px)',
    ...columns.map(() => '104px'),
    '92px 54px minmax(212px, 1fr)',
  ].join(' ');
  // Narrower than that it is scrolled across.
  const least = 784 + columns.length * 114;
  const columnsStyle = { '--columns': grid, '--least': `${least}px` } as CSSProperties;
  return (
    <div
      ref={holder}
      className={styles.rows}
      style={columnsStyle}
      role="table"
      aria-label="Names"
      aria-rowcount={total + 1}
    >
      <div className={`${styles.row} ${styles.heads}`} role="row">
        <span role="columnheader">
          <span className="visuallyHidden">Included</span>
        </span>
        <span role="columnheader">Current name</span>
        <span role="columnheader">New name</span>
        {columns.map((c) => (
          <span key={c.field} role="columnheader">
            {c.term}
          </span>
        ))}
        <span role="columnheader">Card</span>
        <span role="columnheader">Family</span>
        <span role="columnheader">
          <span className="visuallyHidden">Problems</span>
        </span>
      </div>
      <div className={styles.rowsAll} style={{ height: virtual.getTotalSize() }} role="rowgroup">
        {items.map((v) => {
          const row = rowAt(v.index);
          return (
            row && (
              <Row
                key={row.clipId}
                {...props}
                row={row}
                index={v.index}
                reached={v.index === first}
                reach={() => setReached(v.index)}
                go={go}
                // Not moved by a transform: what is dragged is measured without it.
                style={{ top: v.start }}
              />
            )
          );
        })}
      </div>
    </div>
  );
}

function Row({
  row: r,
  index,
  style,
  block,
  without,
  toggle,
  selected,
  select,
  columns,
  still,
  say,
  reached,
  reach,
  go,
}: Props & {
  row: ShownRow;
  index: number;
  reached: boolean;
  reach: () => void;
  go: (index: number) => void;
  style: CSSProperties;
}) {
  const { setNodeRef, listeners, isDragging } = useDraggable({
    id: r.clipId,
    data: { row: r },
    disabled: still,
  });
  const stop = r.problems.some((p) => p.level === 'stop');
  const pick = (e: MouseEvent) => {
    if (still || (e.target as HTMLElement).closest('input, button')) return;
    select(r.clipId, index, e.shiftKey ? 'upTo' : e.ctrlKey || e.metaKey ? 'more' : 'one');
    reach();
  };
  const press = (e: KeyboardEvent) => {
    if (e.target !== e.currentTarget) return;
    const to = { ArrowDown: index + 1, ArrowUp: index - 1 }[e.key];
    if (to !== undefined) go(to);
    else if (e.key === ' ' && !still) select(r.clipId, index, e.shiftKey ? 'upTo' : 'more');
    else return;
    e.preventDefault();
  };
  return (
    <div
      ref={setNodeRef}
      role="row"
      aria-rowindex={index + 2}
      aria-selected={selected.has(r.clipId)}
      className={`${styles.row} ${styles.placed}`}
      data-stop={stop ? '' : undefined}
      data-out={r.out ? '' : undefined}
      data-same={!r.out && r.steps === 0 ? '' : undefined}
      data-dragging={isDragging ? '' : undefined}
      style={style}
      tabIndex={reached ? 0 : -1}
      onClick={pick}
      onKeyDown={press}
      {...listeners}
    >
      <span role="cell">
        {!still && (
          <input
            type="checkbox"
            checked={!r.out && !without.has(r.clipId)}
            disabled={r.out && !without.has(r.clipId)}
            onChange={() => toggle(r.clipId)}
            aria-label={`Rename ${r.current}`}
          />
        )}
      </span>
      <span role="cell" className="figures soft" title={r.current}>
        {r.current}
        {r.extension}
      </span>
      <span role="cell" className="figures" title={`${r.folder}/${r.stem}${r.extension}`}>
        <NewName row={r} block={block} />
      </span>
      {columns.map((c) => (
        <span key={c.field} role="cell">
          <TypedCell column={c} row={r} say={(text) => say(c, index, text)} />
        </span>
      ))}
      <span role="cell" className="soft">
        {r.card} · day {r.day}
      </span>
      <span role="cell">{plural(r.files, 'file')}</span>
      <Remarks row={r} />
    </div>
  );
}

/** What is wrong with it, what is odd, or that it is right. */
const Remarks = ({ row: r }: { row: ShownRow }) => (
  <span role="cell" className={styles.tags}>
    {r.problems.slice(0, 2).map((p) => (
      <Tag key={p.code + p.text} tone={p.level} title={p.mend ? `${p.text}: ${p.mend}` : p.text}>
        {p.text}
      </Tag>
    ))}
    {r.strayed !== null && (
      <Tag tone="plain" title="The name it has does not follow the convention">
        {r.strayed}
      </Tag>
    )}
    {!r.out && r.steps === 0 && r.problems.length === 0 && <Tag tone="proven">already correct</Tag>}
  </span>
);

const NewName = ({ row, block }: { row: NamingRow; block: string | null }) =>
  row.out ? (
    <span className="soft">unchanged</span>
  ) : (
    <>
      <Marked row={row} block={block} />
      {row.extension}
    </>
  );

/** The new name: the chosen block's part marked, or else all that differs from the present name. */
function Marked({ row, block }: { row: NamingRow; block: string | null }) {
  const at = row.parts.findIndex((p) => p.blockId === block);
  if (at >= 0) {
    const from = row.parts.slice(0, at).reduce((n, p) => n + p.before.length + p.text.length, 0);
    const begin = from + row.parts[at]!.before.length;
    return <Split text={row.stem} from={begin} to={begin + row.parts[at]!.text.length} />;
  }
  if (row.stem === row.current) return row.stem;
  const [a, b]: [string, string] = [row.current, row.stem];
  let from = 0;
  while (from < a.length && from < b.length && a[from] === b[from]) from++;
  let end = 0;
  while (end < a.length - from && end < b.length - from && a.at(-1 - end) === b.at(-1 - end)) end++;
  // Where nothing of the old name stays, there is nothing to tell apart.
  return from + end === 0 ? row.stem : <Split text={row.stem} from={from} to={row.stem.length - end} />;
}

const Split = ({ text, from, to }: { text: string; from: number; to: number }) => (
  <>
    {text.slice(0, from)}
    <mark>{text.slice(from, to)}</mark>
    {text.slice(to)}
  </>
);
