import { type SQL, sql } from 'drizzle-orm';
import type { Writer } from '../platform/db/transaction';
import {
  binned,
  bins,
  keyworded,
  keywordRules,
  keywords,
  ranges,
  searches,
  stringOuts,
  rolling,
  strung,
  together,
  withheld,
} from './tables';

// Every change here is rows that come, go or are other than before; so every change has its opposite.

export interface Rows {
  keywords: typeof keywords.$inferSelect;
  bins: typeof bins.$inferSelect;
  searches: typeof searches.$inferSelect;
  ranges: typeof ranges.$inferSelect;
  keyworded: typeof keyworded.$inferSelect;
  withheld: typeof withheld.$inferSelect;
  rules: typeof keywordRules.$inferSelect;
  binned: typeof binned.$inferSelect;
  stringOuts: typeof stringOuts.$inferSelect;
  strung: typeof strung.$inferSelect;
  together: typeof together.$inferSelect;
  rolling: typeof rolling.$inferSelect;
}
export type TableName = keyof Rows;

/** The tables, those that others refer to first, with what tells a row from the others and what else is in it. */
const TABLES: { [T in TableName]: { table: SQL; key: string[]; rest: string[] } } = {
  keywords: {
    table: sql`${keywords}`,
    key: ['id'],
    rest: ['job', 'name', 'key', 'family', 'hotkey', 'place', 'by', 'formerly'],
  },
  bins: { table: sql`${bins}`, key: ['id'], rest: ['job', 'parent', 'name', 'label', 'note'] },
  searches: { table: sql`${searches}`, key: ['id'], rest: ['job', 'name', 'query'] },
  ranges: { table: sql`${ranges}`, key: ['id'], rest: ['clip', 'kind', 'from', 'to', 'name', 'note'] },
  keyworded: { table: sql`${keyworded}`, key: ['clip', 'keyword', 'range', 'by'], rest: [] },
  withheld: { table: sql`${withheld}`, key: ['clip', 'keyword'], rest: [] },
  rules: {
    table: sql`${keywordRules}`,
    key: ['id'],
    rest: ['job', 'kind', 'words', 'query', 'field', 'levels', 'without'],
  },
  binned: { table: sql`${binned}`, key: ['bin', 'clip'], rest: [] },
  stringOuts: { table: sql`${stringOuts}`, key: ['id'], rest: ['job', 'name'] },
  strung: { table: sql`${strung}`, key: ['id'], rest: ['list', 'clip', 'from', 'to', 'place'] },
  together: { table: sql`${together}`, key: ['id'], rest: ['job', 'state'] },
  rolling: { table: sql`${rolling}`, key: ['together', 'clip'], rest: ['offset'] },
};
const ORDER = Object.keys(TABLES) as TableName[];

/** A row that came (`before` of null), went (`after` of null), or is another. */
export type RowChange = {
  [T in TableName]: { table: T; before: Rows[T] | null; after: Rows[T] | null };
}[TableName];

/** What a change comes to: the rows that are other then, and what was done in words. */
export interface Planned {
  rows: RowChange[];
  text: string;
}

const columns = (names: readonly string[]): SQL =>
  sql.join(
    names.map((n) => sql.identifier(n)),
    sql`, `,
  );
const sameKey = (key: readonly string[]): SQL =>
  sql.join(
    key.map((k) => sql`t.${sql.identifier(k)} = r.${sql.identifier(k)}`),
    sql` and `,
  );
const given = (table: SQL, rows: readonly object[]): SQL =>
  sql`json_populate_recordset(null::${table}, ${JSON.stringify(rows)}::json) r`;

/** Writes what is to be there after some changes. */
export async function writeRows(tx: Pick<Writer, 'execute'>, changes: readonly RowChange[]): Promise<void> {
  const of = (name: TableName) => changes.filter((c) => c.table === name);
  for (const name of [...ORDER].reverse()) {
    const gone = of(name).flatMap((c) => (c.after === null && c.before !== null ? [c.before] : []));
    const { table, key } = TABLES[name];
    if (gone.length > 0)
      await tx.execute(sql`delete from ${table} t using ${given(table, gone)} where ${sameKey(key)}`);
  }
  for (const name of ORDER) {
    const there = of(name).flatMap((c) => (c.after === null ? [] : [c.after]));
    if (there.length === 0) continue;
    const { table, key, rest } = TABLES[name];
    const all = columns([...key, ...rest]);
    const set = sql.join(
      rest.map((c) => sql`${sql.identifier(c)} = excluded.${sql.identifier(c)}`),
      sql`, `,
    );
    await tx.execute(
      sql`insert into ${table} (${all}) select ${all} from ${given(table, there)} on conflict (${columns(key)}) do ${
        rest.length > 0 ? sql`update set ${set}` : sql`nothing`
      }`,
    );
  }
}

const keyOf = (name: TableName, row: object): string =>
  JSON.stringify(TABLES[name].key.map((k) => (row as Record<string, unknown>)[k]));
const textOf = (name: TableName, row: object): string => {
  const { key, rest } = TABLES[name];
  return JSON.stringify([...key, ...rest].map((k) => (row as Record<string, unknown>)[k] ?? null));
};

/** Which of some changes can be taken back: whose rows are as they left them. The others were changed by somebody since. */
export async function unchangedSince(
  tx: Pick<Writer, 'execute'>,
  changes: readonly RowChange[],
): Promise<RowChange[]> {
  const found: RowChange[] = [];
  for (const name of ORDER) {
    const mine = changes.filter((c) => c.table === name);
    if (mine.length === 0) continue;
    const { table, key, rest } = TABLES[name];
    const asked = mine.map((c) => (c.before ?? c.after)!);
    const { rows } = await tx.execute<Record<string, unknown>>(
      sql`select ${sql.join(
        [...key, ...rest].map((c) => sql`t.${sql.identifier(c)}`),
        sql`, `,
      )} from ${table} t join ${given(table, asked)} on ${sameKey(key)}`,
    );
    const now = new Map(rows.map((r) => [keyOf(name, r), textOf(name, r)]));
    for (const c of mine) {
      const there = now.get(keyOf(name, (c.before ?? c.after)!)) ?? null;
      if (there === (c.after && textOf(name, c.after))) found.push(c);
    }
  }
  return found;
}

/** What takes changes back. */
export const opposite = (changes: readonly RowChange[]): RowChange[] =>
  changes.map((c) => ({ ...c, before: c.after, after: c.before }) as RowChange);
