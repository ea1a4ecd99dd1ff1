import { sql } from 'drizzle-orm';
import type { Row } from '../../core/records/replay';
import type { Ports } from './ports';
import { joinPath } from '../platform/files/names';
import { TABLES } from './recorded';
import { replayed } from './replayed';
import { homeRecords, recordsName } from './openFiles';

/** Whether a row is as it was recorded, in the columns that both know: a column may have been added since, or removed. */
const agrees = (recorded: Row, row: Row): boolean =>
  Object.keys(recorded).every((k) => !(k in row) || JSON.stringify(recorded[k]) === JSON.stringify(row[k]));

/**
 * How many rows of a database are not as the record beside it has them, although nothing has changed them since: a power cut may have
 * taken any part of what the system had not written out, and what is left may open without a word. `null` where there is no record to compare it with.
 */
export async function disagreements(db: Pick<Ports['db'], 'execute'>, home: string): Promise<number | null> {
  const {
    rows: [library],
  } = await db.execute<{ id: string }>(sql`select id from library`);
  const records = library
    ? await replayed(joinPath(homeRecords(home), recordsName(library.id))).catch(() => null)
    : null;
  if (!records) return null;
  const { mark, tables } = records;
  const gone = new Set(
    (
      await db.execute<{ kind: string; key: unknown[] }>(
        sql`select kind, key from removed_rows where xmin::text::bigint > ${mark.upTo}`,
      )
    ).rows.map((r) => JSON.stringify([r.kind, r.key])),
  );
  let differ = 0;
  for (const table of TABLES) {
    const keyOf = (row: Row) => JSON.stringify(table.key.map((k) => row[k]));
    const wanted = new Map((tables.get(table.name) ?? []).map((row) => [keyOf(row), row]));
    const { rows } = await db.execute<{ row: Row; later: boolean }>(
      sql.raw(
        `select ${table.row ?? 'to_jsonb(t)'} as row, t.xmin::text::bigint > ${mark.upTo} as later from ${table.name} t`,
      ),
    );
    for (const { row, later } of rows) {
      const recorded = wanted.get(keyOf(row));
      wanted.delete(keyOf(row));
      // What was written since may be anything; what was not has to be as it is recorded, and none of it unknown.
      if (!later && !(recorded && agrees(recorded, row))) differ++;
    }
    for (const key of wanted.keys()) if (!gone.has(JSON.stringify([table.name, JSON.parse(key)]))) differ++;
    await new Promise((r) => setImmediate(r));
  }
  return differ;
}
