import { and, eq, inArray, type SQL, sql } from 'drizzle-orm';
import { isDeepStrictEqual } from 'node:util';
import { briefOf } from '../../core/facts/brief';
import type { Statement } from '../../core/facts/catalogue';
import { type FactContext, factsOf } from '../../core/facts/facts';
import { type FactRow, factRows, sortKey, statementOf, textOf } from '../../core/facts/rows';
import { fileStatements } from '../../core/facts/table';
import { isRecording } from '../../core/intake';
import { byClip, clipName, type FileRow, grouped, isRead, saidOf } from '../cards';
import { type Job, requireJob } from '../jobs';
import type { Database } from '../platform/db/client';
import { cards, clips, files } from '../cards/tables';
import { clocks, facts, shown } from './tables';
import { messageOf } from '../platform/errors';
import { inJob } from '../services';
import type { InJob, Ports } from './ports';
import type { Writer } from '../platform/db/transaction';

type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0];

/** Clips worked out by one transaction. */
const SOME = 200;
/** Clips that take long enough for it to be said. */
const MANY = 2000;
/** Milliseconds a list waits for what it shows to be worked out. */
const PATIENCE = 2000;

/** What the job knows beside each card's clips: trust, its camera's clock on its day, the rate of the edit. */
export async function contextsOf(
  { db }: { db: Pick<Database, 'select'> },
  job: Pick<Job, 'id' | 'trust' | 'rate'>,
): Promise<Map<string, FactContext>> {
  const of = await contextOf({ db }, job);
  const rows = await db
    .select({ id: cards.id, camera: cards.camera, day: cards.day })
    .from(cards)
    .where(eq(cards.job, job.id));
  return new Map(rows.map((c) => [c.id, of(c)]));
}

/** The same of a camera on a day, also where it has no card in the job yet. */
export async function contextOf(
  { db }: { db: Pick<Database, 'select'> },
  job: Pick<Job, 'id' | 'trust' | 'rate'>,
): Promise<(of: { camera: string; day: number }) => FactContext> {
  const wrong = await db.select().from(clocks).where(eq(clocks.job, job.id));
  return ({ camera, day }) => ({
    trust: job.trust,
    jobRate: job.rate,
    clockSeconds: wrong.find((w) => w.camera === camera && w.fromDay <= day && w.toDay >= day)?.seconds ?? 0,
  });
}

/** What is on disk of a clip, as statements. */
export function ofFiles(
  family: readonly Pick<FileRow, 'role' | 'path' | 'size' | 'modified'>[],
  original: string,
  zoneMinutes: number,
): Statement[] {
  const first = family.find((f) => f.role === 'original');
  return first
    ? fileStatements({
        path: first.path,
        original,
        bytes: family.filter((f) => isRecording(f.role)).reduce((n, f) => n + f.size, 0),
        files: family.length,
        modified: first.modified,
        zoneMinutes,
      })
    : [];
}

/**
 * Clips of the job whose facts are held until the transaction ends, so that nobody else works them out meanwhile. Only what is
 * held is known to be the newest here: what else they have is asked for afterwards.
 */
const held = (tx: Pick<Database, 'select'>, job: string, which: SQL, most: number) =>
  tx
    .select({ id: shown.clip, number: shown.number, revision: shown.revision, card: shown.card })
    .from(shown)
    .where(and(eq(shown.job, job), which))
    .orderBy(shown.number)
    .limit(most)
    .for('update');
type Held = Awaited<ReturnType<typeof held>>[number];

/**
 * Works out what lists show of some clips whose revision is another than the one they were worked out at. Returns how many it were.
 * One that cannot be worked out takes nothing from the others: it unchanged shown until it changes again.
 */
export async function workOutSome(runtime: InJob): Promise<number> {
  const work = (which: SQL, most: number) =>
    runtime.db.transaction(async (tx) => {
      const list = await held(tx, runtime.job, and(eq(shown.stale, true), which)!, most);
      if (list.length > 0) await keepFacts(tx, runtime.job, list, null);
      return list.length;
    });
  try {
    return await work(sql`true`, SOME);
  } catch (e) {
    const [first] = await held(runtime.db, runtime.job, eq(shown.stale, true), 1);
    if (!first) throw e;
    await work(eq(shown.number, first.number), 1).catch(async (fault: unknown) => {
      console.error(`facts of clip ${first.id}:`, messageOf(fault));
      await runtime.db.update(shown).set({ workedOut: first.revision }).where(eq(shown.number, first.number));
    });
    return 1;
  }
}

/** Holds clips and keeps what was read of them, in place of what was read before. Returns the cards they are of now; those that are gone are left out. */
export async function keepReadings(
  tx: Transaction,
  job: string,
  read: ReadonlyMap<string, readonly Statement[]>,
): Promise<ReadonlyMap<string, string>> {
  const list = await held(tx, job, inArray(shown.clip, [...read.keys()]), read.size);
  if (list.length > 0) await keepFacts(tx, job, list, read);
  return new Map(list.map((c) => [c.id, c.card]));
}

/** What a job's clips are told by is asked for after they are held: who changes it gives them another revision in the same transaction. */
async function keepFacts(
  tx: Transaction,
  jobId: string,
  list: readonly Held[],
  read: ReadonlyMap<string, readonly Statement[]> | null,
): Promise<void> {
  const numbers = list.map((c) => c.number);
  const ids = list.map((c) => c.id);
  const job = await requireJob({ db: tx, job: jobId });
  const contexts = await contextsOf({ db: tx }, job);
  const before = await tx
    .select()
    .from(facts)
    .where(inArray(facts.clip, numbers))
    .orderBy(facts.clip, facts.field, facts.source);
  const readBefore = grouped(before.filter(isRead), (r) => r.clip, statementOf);
  const words = await saidOf(tx, ids);
  const originals = new Map(
    (
      await tx.select({ id: clips.id, original: clips.original }).from(clips).where(inArray(clips.id, ids))
    ).map((c) => [c.id, c.original]),
  );
  const families = byClip(await tx.select().from(files).where(inArray(files.clip, ids)));
  const rows: (FactRow & { clip: number })[] = [];
  const lists = list.map((c) => {
    const family = families.get(c.id) ?? [];
    const original = originals.get(c.id) ?? '';
    const context = contexts.get(c.card);
    const chosen = factsOf(
      [
        ...(read?.get(c.id) ?? readBefore.get(c.number) ?? []),
        ...(words.get(c.id) ?? []),
        ...ofFiles(family, original, job.zoneMinutes),
      ],
      context,
    );
    const own = factRows(chosen);
    rows.push(...own.map((r) => ({ ...r, clip: c.number })));
    const name = clipName(
      family.find((f) => f.role === 'original'),
      original,
    );
    return {
      number: c.number,
      revision: c.revision,
      name,
      sort: sortKey(name),
      recorded: own.find((r) => r.field === 'recordedAt' && r.chosen)?.number ?? null,
      brief: JSON.stringify(briefOf(chosen, context)),
      text: textOf(own, [name, c.card]),
    };
  });
  await writeFacts(tx, job.number, before, rows);
  await tx.execute(sql`
    update ${shown} set worked_out = r.revision, name = r.name, sort = r.sort, recorded = coalesce(r.recorded, 'infinity'), brief = r.brief, text = r.text
    from json_to_recordset(${JSON.stringify(lists)}::json) as r(number int, revision int, name text, sort text, recorded float8, brief text, text text)
    where ${shown.number} = r.number`);
}

/** Writes what is new or other than before, and takes away what is there no more: what is as it was costs nothing. */
async function writeFacts(
  tx: Transaction,
  job: number,
  before: readonly (typeof facts.$inferSelect)[],
  rows: readonly (FactRow & { clip: number })[],
): Promise<void> {
  const keyOf = (r: { clip: number; field: string; source: string }) => `${r.clip} ${r.field} ${r.source}`;
  // The database has the parts of a value in an order of its own.
  const stateOf = (r: FactRow) => [r.chosen, r.words, r.number, r.sort, r.value];
  const known = new Map(before.map((r) => [keyOf(r), stateOf(r)]));
  const now = new Set(rows.map(keyOf));
  const gone = before
    .filter((r) => !now.has(keyOf(r)))
    .map(({ clip, field, source }) => ({ clip, field, source }));
  if (gone.length > 0)
    await tx.execute(sql`
      delete from ${facts} f using json_to_recordset(${JSON.stringify(gone)}::json) as g(clip int, field fact_field, source fact_source)
      where f.clip = g.clip and f.field = g.field and f.source = g.source`);
  const changed = rows.filter((r) => !isDeepStrictEqual(known.get(keyOf(r)), stateOf(r)));
  if (changed.length > 0)
    await tx.execute(sql`
      insert into ${facts} (clip, job, field, source, chosen, words, number, sort, value)
      select clip, ${job}, field, source, chosen, words, number, sort, value
      from json_to_recordset(${JSON.stringify(changed)}::json) as r(clip int, field fact_field, source fact_source, chosen boolean, words text, number float8, sort text, value jsonb)
      on conflict (clip, field, source) do update set chosen = excluded.chosen, words = excluded.words, number = excluded.number, sort = excluded.sort, value = excluded.value`);
}

/** Works out what changed of the job's clips, and says so. */
async function workOut(runtime: InJob): Promise<void> {
  let some = 0;
  do {
    some = await workOutSome(runtime);
    await new Promise((r) => setImmediate(r));
  } while (some > 0);
  runtime.events.changed('clips', 'cards');
}

/** What is being worked out of each job. */
const underWay = new WeakMap<Database, Map<string, Promise<void>>>();

/** Works out what changed in the job, unless nothing did. Asked for twice, it is done once. */
export async function allUpToDate(runtime: InJob): Promise<void> {
  const [old] = await runtime.db
    .select({ number: shown.number })
    .from(shown)
    .where(and(eq(shown.job, runtime.job), eq(shown.stale, true)))
    .limit(1);
  if (!old) return;
  const jobs = underWay.get(runtime.db) ?? new Map<string, Promise<void>>();
  underWay.set(runtime.db, jobs);
  let work = jobs.get(runtime.job);
  if (!work) {
    work = workOut(runtime).finally(() => jobs.delete(runtime.job));
    jobs.set(runtime.job, work);
  }
  // What was already looked at when this one asked may have changed again since.
  await work;
  await allUpToDate(runtime);
}

/**
 * Sees to it that lists show how things are: what changed is worked out first, as far as that takes no longer than a moment. Of very
 * many clips the rest follows, and whoever looks at the list is told.
 */
export async function upToDate(runtime: InJob): Promise<void> {
  const work = allUpToDate(runtime).catch((e: unknown) => console.error('facts:', messageOf(e)));
  let timer: NodeJS.Timeout | undefined;
  const moment = new Promise<void>((r) => (timer = setTimeout(r, PATIENCE)));
  await Promise.race([work, moment]);
  clearTimeout(timer);
}

/** Works out what is to be, in every job: after an update of Sort Shelf, or where it ended before it was done. */
export async function workOutAll(runtime: Ports): Promise<void> {
  for (const { job, clips: n } of await runtime.db
    .select({ job: shown.job, clips: sql<number>`count(*)::int` })
    .from(shown)
    .where(eq(shown.stale, true))
    .groupBy(shown.job)) {
    if (n > MANY) console.log(`Working out what lists show of ${n} clips …`);
    await workOut(inJob(runtime, job));
  }
}

/** What is shown of a job's clips goes, at once and not clip by clip, and with it their facts; and its clocks. */
export async function forgetFacts(tx: Writer, job: string): Promise<void> {
  await tx.delete(shown).where(eq(shown.job, job));
  await tx.delete(clocks).where(eq(clocks.job, job));
}
