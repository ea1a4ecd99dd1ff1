import { sql } from 'drizzle-orm';
import type { Row } from '../../core/records/replay';
import type { Database } from '../platform/db/client';

export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

/** Rows stored by one statement. */
const PAGE = 2000;

/** Stores rows of a table, in the columns that it has. Rows recorded before a column was added take its default. */
export async function store(tx: Transaction, table: string, rows: readonly Row[]): Promise<void> {
  const { rows: known } = await tx.execute<{ name: string }>(
    sql`select column_name as name from information_schema.columns where table_schema = 'public' and table_name = ${table}`,
  );
  const sorts = new Map<string, Row[]>();
  for (const r of rows) {
    const has = JSON.stringify(known.flatMap((c) => (c.name in r ? [c.name] : [])));
    sorts.set(has, sorts.get(has) ?? []);
    sorts.get(has)!.push(r);
  }
  for (const [has, alike] of sorts) {
    const columns = sql.join(
      (JSON.parse(has) as string[]).map((c) => sql.identifier(c)),
      sql`, `,
    );
    for (let i = 0; i < alike.length; i += PAGE) {
      await tx.execute(
        sql`insert into ${sql.identifier(table)} (${columns}) select ${columns} from jsonb_populate_recordset(null::${sql.identifier(table)}, ${JSON.stringify(alike.slice(i, i + PAGE))}::jsonb)`,
      );
      await new Promise((r) => setImmediate(r));
    }
  }
}
