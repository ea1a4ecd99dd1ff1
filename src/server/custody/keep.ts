import { eq, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { HashKind } from '../../core/hashLists';
import type { Writer } from '../platform/db/transaction';
import { cardReadings, copyReadings, physicalCards, safeCopies } from './tables';

// What copying finds out about a card and its copies. Many rows are one value of a statement: one takes no more than 65 535.

/** A safe copy is begun: nothing is proven of it yet. */
export async function keepCopy(
  tx: Writer,
  copy: Omit<typeof safeCopies.$inferInsert, 'id' | 'madeAt'>,
): Promise<void> {
  await tx.insert(safeCopies).values({ id: randomUUID(), madeAt: new Date(), ...copy });
}

/** What files of a card gave when they were read from it just now, by their numbers in its manifest. */
export async function keepCardReadings(
  tx: Writer,
  card: string,
  kind: HashKind,
  read: readonly { file: number; hash: string }[],
): Promise<void> {
  await tx.execute(sql`insert into ${cardReadings} (card, number, kind, value, at) select ${card}, v.file, ${kind}, v.hash, ${new Date().toISOString()}::timestamptz
    from jsonb_to_recordset(${JSON.stringify(read)}::jsonb) as v(file int, hash text)`);
}

/** What is in copies that were written just now, by the files' numbers in the card's manifest. Of what was not read back, `value` is null. */
export async function keepCopied(
  tx: Writer,
  kind: HashKind,
  stood: readonly {
    copy: string;
    number: number;
    result: 'read' | 'sizeOnly';
    value: string | null;
    size: number;
    modified: number;
  }[],
): Promise<void> {
  if (stood.length === 0) return;
  await tx.execute(sql`insert into ${copyReadings} (copy, number, at, how, result, kind, value, size, modified)
    select v.copy, v.number, ${new Date().toISOString()}::timestamptz, 'copied', v.result, ${kind}, v.value, v.size, v.modified
    from jsonb_to_recordset(${JSON.stringify(stood)}::jsonb) as v(copy text, number int, result text, value text, size bigint, modified bigint)`);
}

/** A copy's hash list names so many files. */
export async function keepListed(db: Writer, copy: string, listed: number): Promise<void> {
  await db.update(safeCopies).set({ listed, seenAt: new Date() }).where(eq(safeCopies.id, copy));
}

/** Copies that were made by these copyings are not known any more. */
export async function forgetCopies(tx: Writer, offloads: readonly string[]): Promise<void> {
  await tx.execute(
    sql`delete from ${safeCopies} where offload in (select jsonb_array_elements_text(${JSON.stringify(offloads)}::jsonb))`,
  );
}

/** Cards that no job names and no copying is of are not known any more. */
export async function forgetUnnamedCards(tx: Writer): Promise<void> {
  await tx.execute(sql`delete from ${physicalCards} p
    where not exists (select from offloads o where o.physical = p.id) and not exists (select from cards c where c.physical = p.id)`);
}
