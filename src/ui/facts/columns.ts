import { type FieldId, fieldOf } from '../../core/facts/catalogue';
import type { FactTable } from '../../core/facts/shapes';

/** One clip of the table, as it came. */
export interface FactRow {
  at: number;
  id: string;
  card: string;
  camera: string;
  day: number;
  name: string;
  kind: string;
  state: string;
}

/** What the rows are put together by. */
export const GROUPINGS = {
  none: 'nothing',
  camera: 'camera',
  day: 'day',
  card: 'card',
  codec: 'codec',
  rate: 'frame rate',
} as const;
export type Grouping = keyof typeof GROUPINGS;

/** A sort by a column; the name's is "name". */
export interface Sorting {
  by: FieldId | 'name';
  down: boolean;
}

/** Only clips whose field has this very value, as a chart's bar or a group asks for; of `camera` and `day` the clip's place. */
export interface Only {
  field: FieldId | 'camera' | 'day';
  value: string;
  words: string;
}

export const rowsOf = (table: FactTable): FactRow[] =>
  table.clips.map(([id, card, camera, day, name, kind, state], at) => ({
    at,
    id,
    card,
    camera,
    day,
    name,
    kind,
    state,
  }));

/** The words of a cell; "" where the clip states nothing. */
export function wordsAt(table: FactTable, field: FieldId, at: number): string {
  const column = table.columns.find((c) => c.field === field);
  const cell = column?.rows[at];
  return cell === null || cell === undefined ? '' : column!.cells[cell]![0];
}

/** For each clip all its words in lower case, to look for what the person types. */
export function haystacks(table: FactTable): string[] {
  const lower = table.columns.map((c) => c.cells.map((cell) => cell[0].toLowerCase()));
  return table.clips.map(([, card, , , name], at) =>
    `${name} ${card} ${table.columns
      .map((c, i) => {
        const r = c.rows[at];
        return r === null || r === undefined ? '' : lower[i]![r];
      })
      .join('\u0001')}`.toLowerCase(),
  );
}

/** Clips that hold every word typed and what is asked for besides. */
export function filterRows(
  rows: readonly FactRow[],
  hay: readonly string[],
  words: string,
  only: readonly Only[],
  table: FactTable,
): FactRow[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const tests = only.map((o) => {
    if (o.field === 'camera') return (r: FactRow) => r.camera === o.value;
    if (o.field === 'day') return (r: FactRow) => String(r.day) === o.value;
    const column = table.columns.find((c) => c.field === o.field);
    return (r: FactRow) => {
      const cell = column?.rows[r.at];
      return cell !== null && cell !== undefined && column!.cells[cell]![0] === o.value;
    };
  });
  return rows.filter((r) => wanted.every((w) => hay[r.at]!.includes(w)) && tests.every((t) => t(r)));
}

/** Sorted by a column: numbers by their size, words by their letters, clips that state nothing last. */
export function sortRows(
  rows: readonly FactRow[],
  sorting: Sorting | null,
  table: FactTable,
): readonly FactRow[] {
  if (!sorting) return rows;
  const way = sorting.down ? -1 : 1;
  if (sorting.by === 'name')
    return [...rows].sort((a, b) => way * a.name.localeCompare(b.name, 'en', { numeric: true }));
  const column = table.columns.find((c) => c.field === sorting.by);
  if (!column) return rows;
  // Cells are ranked once; comparing clips is then comparing numbers.
  const order = column.cells
    .map((_, i) => i)
    .sort((a, b) => {
      const [x, y] = [column.cells[a]!, column.cells[b]!];
      return x[1] !== null && y[1] !== null ? x[1] - y[1] : x[0].localeCompare(y[0], 'en', { numeric: true });
    });
  const rank = new Map(order.map((cell, i) => [cell, i]));
  const of = (r: FactRow): number | null => {
    const cell = column.rows[r.at];
    return cell === null || cell === undefined ? null : rank.get(cell)!;
  };
  return [...rows].sort((a, b) => {
    const [x, y] = [of(a), of(b)];
    return x === null || y === null ? (x === null ? 1 : 0) - (y === null ? 1 : 0) : way * (x - y);
  });
}

/** A line of the table: a clip, or the head of a group. */
export type Line = FactRow | { group: string; clips: number };

/** Rows put together, each group under a head; groups in order of their names. */
export function linesOf(rows: readonly FactRow[], by: Grouping, table: FactTable): readonly Line[] {
  if (by === 'none') return rows;
  const key = (r: FactRow): string =>
    by === 'camera'
      ? `Camera ${r.camera}`
      : by === 'day'
        ? `Day ${r.day}`
        : by === 'card'
          ? r.card
          : wordsAt(table, by, r.at) || 'not stated';
  const groups = new Map<string, FactRow[]>();
  for (const r of rows) {
    const k = key(r);
    const list = groups.get(k);
    if (list) list.push(r);
    else groups.set(k, [r]);
  }
  return [...groups]
    .sort(([a], [b]) => a.localeCompare(b, 'en', { numeric: true }))
    .flatMap(([k, list]): Line[] => [{ group: k, clips: list.length }, ...list]);
}

/** Width of a column in pixels, by what stands in it. */
export function widthOf(field: FieldId, table: FactTable): number {
  const column = table.columns.find((c) => c.field === field);
  const longest = (column?.cells ?? []).slice(0, 300).reduce((n, c) => Math.max(n, c[0].length), 0);
  return Math.round(Math.min(300, Math.max(74, longest * 7.7 + 22, fieldOf(field).term.length * 6.6 + 30)));
}

export const isNumeric = (field: FieldId): boolean =>
  ['count', 'number', 'fraction', 'rate'].includes(fieldOf(field).type);
