import { and, eq, inArray, notInArray } from 'drizzle-orm';
import { type Source, statementOf, type Statement, Value, WORKED_OUT } from '../../core/facts';
import type { Database } from '../platform/db/client';
import { facts, said, shown } from '../facts/tables';

/** A row of a fact, as `statementOf` takes it. */
const STATED = {
  field: facts.field,
  source: facts.source,
  words: facts.words,
  number: facts.number,
  value: facts.value,
} satisfies Record<keyof Parameters<typeof statementOf>[0], unknown>;

/** As the key has it: by the catalogue's fields and sources. */
const IN_ORDER = [facts.clip, facts.field, facts.source];

const NOT_READ = [...WORKED_OUT, 'person'] as const;
/** Whether a row is what a clip's files stated. */
export const isRead = ({ source }: { source: Source }): boolean =>
  !(NOT_READ as readonly Source[]).includes(source);

type Reads = Pick<Database, 'select'>;

/** What a person says of clips. */
export async function saidOf(db: Reads, clips: readonly string[]): Promise<Map<string, Statement[]>> {
  const rows = await db
    .select()
    .from(said)
    .where(inArray(said.clip, [...clips]))
    .orderBy(said.seq);
  return grouped(
    // What an earlier version or a stranger's record keeps as one and is none says nothing.
    rows.filter((r) => Value.safeParse(r.value).success),
    (r) => r.clip,
    ({ field, value }): Statement => ({ field, value, source: 'person' }),
  );
}

/** Everything that is stated of clips: by their files, and by a person. A clip of which nothing is has no entry. */
export async function statementsOf(db: Reads, clips: readonly string[]): Promise<Map<string, Statement[]>> {
  const rows = await db
    .select({ clip: shown.clip, ...STATED })
    .from(facts)
    .innerJoin(shown, eq(shown.number, facts.clip))
    .where(and(inArray(shown.clip, [...clips]), notInArray(facts.source, [...NOT_READ])))
    .orderBy(...IN_ORDER);
  const out = grouped(rows, (r) => r.clip, statementOf);
  for (const [clip, words] of await saidOf(db, clips)) out.set(clip, [...(out.get(clip) ?? []), ...words]);
  return out;
}

/** Values of rows, put together by a key, in their order. */
export function grouped<K, R, V>(rows: readonly R[], by: (r: R) => K, value: (r: R) => V): Map<K, V[]> {
  const out = new Map<K, V[]>();
  for (const r of rows) {
    const list = out.get(by(r));
    if (list) list.push(value(r));
    else out.set(by(r), [value(r)]);
  }
  return out;
}
