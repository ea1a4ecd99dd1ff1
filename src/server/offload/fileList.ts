import { and, asc, count, eq, gt, inArray, ne, sum } from 'drizzle-orm';
import { files } from '../cards/tables';
import { offloadFiles, offloads } from './tables';
import { cards } from '../cards/tables';
import type { Writer } from '../platform/db/transaction';
import type { Ports } from './ports';

export type OffloadFile = typeof offloadFiles.$inferSelect;

const PAGE = 2000;

/** The files of a copying that are in one of these states, in order, a page at a time: the database runs in the thread that also answers the interface. */
export async function* filesOf(
  { db }: Pick<Ports, 'db'>,
  offload: string,
  states: readonly OffloadFile['state'][],
): AsyncGenerator<OffloadFile[]> {
  for (let last = -1; ;) {
    const page = await db
      .select()
      .from(offloadFiles)
      .where(
        and(
          eq(offloadFiles.offload, offload),
          gt(offloadFiles.number, last),
          inArray(offloadFiles.state, [...states]),
        ),
      )
      .orderBy(asc(offloadFiles.number))
      .limit(PAGE);
    if (page.length === 0) return;
    last = page.at(-1)!.number;
    yield page;
    await new Promise((r) => setImmediate(r));
  }
}

/** Verified and failed files of copyings, with the bytes verified. */
export async function tallies(
  runtime: Pick<Ports, 'db'>,
): Promise<Map<string, { verified: number; failed: number; bytes: number }>> {
  const rows = await runtime.db
    .select({
      offload: offloadFiles.offload,
      state: offloadFiles.state,
      n: count(),
      bytes: sum(offloadFiles.size).mapWith(Number),
    })
    .from(offloadFiles)
    .groupBy(offloadFiles.offload, offloadFiles.state);
  const out = new Map<string, { verified: number; failed: number; bytes: number }>();
  for (const r of rows) {
    const t = out.get(r.offload) ?? { verified: 0, failed: 0, bytes: 0 };
    if (r.state === 'verified') Object.assign(t, { verified: r.n, bytes: r.bytes });
    if (r.state === 'failed') t.failed = r.n;
    out.set(r.offload, t);
  }
  return out;
}

/** Clips whose card is still being copied: they are named when it is done. */
export async function clipsBeingCopied(runtime: Pick<Ports, 'db'>): Promise<Set<string>> {
  const rows = await runtime.db
    .selectDistinct({ clip: files.clip })
    .from(offloadFiles)
    .innerJoin(offloads, eq(offloads.id, offloadFiles.offload))
    .innerJoin(files, eq(files.id, offloadFiles.file))
    .where(inArray(offloads.state, ['queued', 'running', 'paused', 'waiting']));
  return new Set(rows.map((r) => r.clip));
}

/** Copyings of a job go; those of cards that another job has, too, become that job's. Returns those that went. */
export async function forgetCopyings(tx: Writer, job: string): Promise<string[]> {
  const mine = eq(offloads.job, job);
  const others = await tx
    .selectDistinct({ job: cards.job, physical: cards.physical })
    .from(cards)
    .innerJoin(offloads, and(eq(offloads.physical, cards.physical), mine))
    .where(ne(cards.job, job));
  for (const o of others)
    await tx
      .update(offloads)
      .set({ job: o.job })
      .where(and(mine, eq(offloads.physical, o.physical!)));
  return (await tx.delete(offloads).where(mine).returning({ id: offloads.id })).map((o) => o.id);
}
