import * as z from 'zod';
import { keyOfFirst, rowOfFirst } from './upgrade';

// The records beside the footage: what the database knows of cards, copies, names and places, a JSON object a line. A header, then
// rows that are new or have changed and keys that are gone, and after each time of writing a mark. What follows the last mark was
// being written when it ended, and does not count.

/** Version of the lines' form; those of earlier versions are read as well (`upgrade.ts`). */
export const RECORDS_VERSION = 2;

export type Row = Record<string, unknown>;
/** Rows are many: each is only told to be one here, and the database that takes it knows its columns. */
const Row = z.custom<Row>((v) => typeof v === 'object' && v !== null && !Array.isArray(v));
const Key = z.array(z.union([z.string(), z.number()])).min(1);

export const Header = z.object({
  records: z.literal([1, RECORDS_VERSION]),
  /** The database that wrote it. */
  library: z.uuid(),
  /** The root beside whose footage it is; null where it is beside the database. */
  root: z.string().nullable(),
});
export type Header = z.infer<typeof Header>;
const Rows = z.object({ table: z.string(), rows: z.array(Row) });
const Gone = z.object({ table: z.string(), gone: z.array(Key) });
type Some = z.infer<typeof Rows> | z.infer<typeof Gone>;
export const Mark = z.object({
  /** Every change up to this transaction is in the lines before; `NOT_YET` where they were read while they changed. */
  upTo: z.int(),
  at: z.iso.datetime(),
  /** Newest rows of the tables that only grow. */
  grown: z.record(z.string(), z.int()),
  /** Bytes of the file when it was written whole the last time. */
  base: z.int(),
  /** The run of the server that wrote it. */
  run: z.string().optional(),
  /** Version of the file it is in; absent in those of version 1. */
  version: z.int().optional(),
});
export type Mark = z.infer<typeof Mark>;
/** Of a mark whose lines count only together with those up to the next mark. */
export const NOT_YET = -1;

/** A table as it is recorded: its key, and the rows of other tables without which a row means nothing. */
export interface RecordedTable {
  name: string;
  key: readonly string[];
  needs: readonly { columns: readonly string[]; of: string }[];
}

const keyOf = (values: readonly unknown[]): string => JSON.stringify(values);

/** A line of version 1 as one of now. */
const ofFirst = (some: Some): Some =>
  'gone' in some
    ? { ...some, gone: some.gone.map((key) => keyOfFirst(some.table, key)) }
    : { ...some, rows: some.rows.map((row) => rowOfFirst(some.table, row)) };

/** Puts the lines of one file together to the rows that counted at its last mark. Lines are given one after another. */
export class Replay {
  header: Header | null = null;
  mark: Mark | null = null;
  readonly #tables: ReadonlyMap<string, RecordedTable>;
  readonly #rows = new Map<string, Map<string, Row>>();
  #open: Some[] = [];

  constructor(tables: readonly RecordedTable[]) {
    this.#tables = new Map(tables.map((t) => [t.name, t]));
  }

  /** Takes a line. Throws where it is none of the records' lines; a last line that was cut short is the caller's to leave out. */
  line(text: string): void {
    const value: unknown = JSON.parse(text);
    if (this.header === null) {
      this.header = Header.parse(value);
      return;
    }
    const mark = Mark.safeParse(value);
    if (!mark.success) {
      const some = z.union([Rows, Gone]).parse(value);
      this.#open.push(this.header.records === 1 ? ofFirst(some) : some);
      return;
    }
    // A key that is gone may be given again at once: what is there was looked at after what is gone.
    for (const some of this.#open)
      if ('gone' in some) for (const key of some.gone) this.#rows.get(some.table)?.delete(keyOf(key));
    for (const some of this.#open) {
      const table = this.#tables.get(some.table);
      if (!table || !('rows' in some)) continue;
      const rows = this.#rows.get(some.table) ?? new Map<string, Row>();
      this.#rows.set(some.table, rows);
      for (const row of some.rows) rows.set(keyOf(table.key.map((k) => row[k])), row);
    }
    this.#open = [];
    if (mark.data.upTo !== NOT_YET) this.mark = mark.data;
  }

  /** The rows of each table, parents before children; those without a parent are left out. */
  tables(): Map<string, Row[]> {
    const kept = new Map<string, Map<string, Row>>();
    for (const [name, table] of this.#tables) {
      const parents = table.needs.map((n) => ({ columns: n.columns, rows: kept.get(n.of)! }));
      const has = (row: Row) =>
        parents.every(({ columns, rows }) => {
          const key = columns.map((c) => row[c]);
          return key.every((k) => k === null || k === undefined) || rows.has(keyOf(key));
        });
      kept.set(name, new Map([...(this.#rows.get(name) ?? [])].filter(([, row]) => has(row))));
    }
    return new Map([...kept].map(([name, rows]) => [name, [...rows.values()]]));
  }
}
