import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import { briefOf } from '../../core/facts/brief';
import { chooseFacts, commonRate, type FactContext, factsOf, text } from '../../core/facts/facts';
import type { Statement } from '../../core/facts/catalogue';
import { showFacts } from '../../core/facts/table';
import { formatRate } from '../../core/platform/timecode/rate';
import { cameras, cards, clips, clocks, files, jobs, work } from '../platform/db/schema';
import { clipsOf, isCard } from '../platform/db/ofJob';
import { asError } from '../platform/errors';
import { placeOf, byClip, type FileRow } from '../cards';
import type { WorkContext } from '../platform/work/queue';
import {
  type ClipOnDisk,
  type FileOnDisk,
  type Reading,
  type ReadOptions,
  READER,
  readRest,
  readFirst,
} from '../reading';
import type { InJob, Runtime } from '../runtime';
import { type Job, theJob } from '../jobs';
import { writeLog } from '../logbook';
import { provePairsOf } from '../proxies';
import { listRoots } from '../places';

type ClipRow = typeof clips.$inferSelect;

/** What a family's files were when they were read, in one line: changes whenever one of them does, not when they are named. */
export const stateOf = (family: readonly { role: string; size: number; modified: number }[]): string =>
  `${READER}:${family
    .filter((f) => f.role !== 'proxy')
    .map((f) => `${f.role[0]}${f.size}@${Math.round(f.modified)}`)
    .sort()
    .join(',')}`;

const optionsOf = (job: Job): ReadOptions => ({
  zoneMinutes: job.zoneMinutes,
  stillsRate: job.intake.stillsRate,
  jobRate: job.rate,
});

/** Clips that are read in one go: each with its row, its files, where those are, and the work it is done for. */
interface Batch {
  job: Job;
  clips: { work: string; row: ClipRow; family: FileRow[]; disk: ClipOnDisk }[];
  failed: Map<string, Error>;
}

/** A clip that is not in the job any more is left out; one whose files lead out of their root, or whose root is not there, has failed. */
async function batchOf(
  runtime: InJob,
  contexts: readonly Pick<WorkContext, 'id' | 'clip'>[],
): Promise<Batch> {
  const ids = contexts.map((c) => c.clip);
  const rows = new Map(
    (await runtime.db.select().from(clips).where(inArray(clips.id, ids))).map((r) => [r.id, r]),
  );
  const families = byClip(await runtime.db.select().from(files).where(inArray(files.clip, ids)));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const batch: Batch = { job: await theJob(runtime), clips: [], failed: new Map() };
  for (const { id: work, clip } of contexts) {
    const row = rows.get(clip);
    if (!row) continue;
    const family = families.get(clip) ?? [];
    try {
      const list = await Promise.all(
        family.map(async (f): Promise<FileOnDisk> => {
          return {
            role: f.role,
            file: await placeOf(roots.get(f.root)!, f),
            size: f.size,
            modified: f.modified,
          };
        }),
      );
      const original = family.find((f) => f.role === 'original');
      batch.clips.push({
        work,
        row,
        family,
        disk: {
          kind: row.kind,
          files: list,
          ...(original?.takenPath ? { cameraPath: original.takenPath } : {}),
        },
      });
    } catch (e) {
      batch.failed.set(work, asError(e));
    }
  }
  return batch;
}

/** The first pass over clips: what they say in this process. The second follows by itself where there is more to ask. */
export async function readClips(
  runtime: InJob,
  contexts: readonly Pick<WorkContext, 'id' | 'clip'>[],
): Promise<ReadonlyMap<string, Error>> {
  const { job, clips: batch, failed } = await batchOf(runtime, contexts);
  const readings = await readFirst(
    batch.map((c) => c.disk),
    optionsOf(job),
  );
  const read = batch.map((c, i) => {
    const reading = readings[i]!;
    return { ...c, reading, more: reading.fault === null && (reading.rest.probe || reading.rest.tags) };
  });
  await store(
    runtime,
    job,
    read.map((c) => ({ ...c, finished: !c.more })),
    failed,
  );
  await runtime.queue.add(
    'rest',
    read.filter((c) => c.more).map((c) => c.row.id),
  );
  await afterReading(
    runtime,
    read.filter((c) => c.reading.fault === null && !c.reading.rest.probe),
  );
  await settleRate(runtime, job);
  return failed;
}

/** The second pass over clips: ffprobe and ExifTool, for what the first could not read of their kind. */
export async function readRestOfClips(
  runtime: InJob,
  contexts: readonly Pick<WorkContext, 'id' | 'clip'>[],
): Promise<ReadonlyMap<string, Error>> {
  const { job, clips: batch, failed } = await batchOf(runtime, contexts);
  // The first pass costs a millisecond: reading it again is simpler than keeping what it wanted asked.
  const firsts = await readFirst(
    batch.map((c) => c.disk),
    optionsOf(job),
  );
  for (const [i, c] of batch.entries()) {
    const [first, { row }] = [firsts[i]!, c];
    const reading = await readRest(c.disk, optionsOf(job), first);
    await store(runtime, job, [{ ...c, reading, finished: true }], failed);
    if (reading.fault === null && (first.rest.probe || row.state !== 'read'))
      await afterReading(runtime, [c]);
  }
  await settleRate(runtime, job);
  return failed;
}

interface Read {
  work: string;
  row: ClipRow;
  family: readonly FileRow[];
  reading: Reading;
  finished: boolean;
}

/**
 * Keeps what was read, in one statement: each costs more than what it writes. One row that cannot be kept takes nothing from
 * the others; why is put into `failed`. A clip that ffprobe has still to be asked about is neither read nor unreadable yet.
 */
async function store(
  runtime: InJob,
  job: Job,
  read: readonly Read[],
  failed: Map<string, Error>,
): Promise<void> {
  const contexts = await contextsOf(runtime, job);
  const changes: {
    work: string;
    card: string;
    set: { id: string; statements: Statement[]; state: string };
  }[] = [];
  const write = (some: readonly Read[]) =>
    runtime.db.transaction(async (tx) => {
      // As they are now, not as they were when the reading began: the person may have corrected them meanwhile.
      const now = new Map(
        (
          await tx
            .select({ id: clips.id, card: clips.card, statements: clips.statements })
            .from(clips)
            .where(
              inArray(
                clips.id,
                some.map((c) => c.row.id),
              ),
            )
            .for('update')
        ).map((r) => [r.id, r]),
      );
      const sets = some.flatMap((c) => {
        const row = now.get(c.row.id);
        return row ? [{ work: c.work, card: row.card, set: changeOf(c, row, contexts.get(row.card)) }] : [];
      });
      await tx.execute(sql`
      update ${clips} set statements = r.statements, audio = r.audio, fault = r.fault, notes = r.notes, state = r.state, read_as = r.read_as, shown = r.shown, brief = r.brief
      from json_to_recordset(${JSON.stringify(sets.map((c) => c.set))}::json) as r(id text, statements jsonb, audio jsonb, fault text, notes jsonb, state text, read_as text, shown text, brief text)
      where ${clips.id} = r.id`);
      return sets;
    });
  if (read.length === 0) return;
  await write(read).then(
    (sets) => changes.push(...sets),
    async () => {
      for (const c of read)
        await write([c]).then(
          (sets) => changes.push(...sets),
          (e: unknown) => failed.set(c.work, asError(e)),
        );
    },
  );
  const cameras = new Map<string, { card: string; said: Statement[] }>();
  for (const { card, set } of changes.filter((c) => c.set.state === 'read' && !failed.has(c.work))) {
    const said = set.statements.filter(
      (s) => s.field === 'model' || s.field === 'maker' || s.field === 'serial',
    );
    cameras.set(JSON.stringify([card, said]), { card, said });
  }
  for (const { card, said } of cameras.values()) await rememberCamera(runtime, card, said);
}

/** What is kept of a clip: what was read, and what the person says, which is no reading. */
function changeOf(
  { family, reading, finished }: Read,
  row: { id: string; statements: readonly Statement[] },
  context: FactContext | undefined,
) {
  const kept = row.statements.filter(
    (s) =>
      s.source === 'person' && !reading.statements.some((n) => n.field === s.field && n.source === 'person'),
  );
  const statements = [...reading.statements, ...kept];
  const state =
    reading.fault !== null
      ? ('unreadable' as const)
      : finished || !reading.rest.probe
        ? ('read' as const)
        : ('waiting' as const);
  const { audio, fault, notes } = reading;
  return {
    id: row.id,
    statements,
    audio,
    fault,
    notes,
    state,
    read_as: finished ? stateOf(family) : null,
    ...workedOut(statements, context),
  };
}

async function afterReading(
  runtime: InJob,
  read: readonly { row: ClipRow; family: readonly FileRow[] }[],
): Promise<void> {
  for (const { row } of read.filter((c) =>
    c.family.some((f) => f.role === 'proxy' || f.role === 'cameraProxy'),
  ))
    await provePairsOf(runtime, row.id);
  await runtime.queue.add(
    'filmstrip',
    read.filter((c) => c.row.kind !== 'sound').map((c) => c.row.id),
  );
}

/** What is kept beside a clip's statements, as text, so that lists and tables need not go through them. */
function workedOut(
  statements: readonly Statement[],
  context: FactContext = {},
): { shown: string; brief: string } {
  const facts = factsOf(statements, context);
  return { shown: JSON.stringify(showFacts(facts)), brief: JSON.stringify(briefOf(facts, context)) };
}

/** What the job knows beside each card's clips: trust, its camera's clock on its day, the rate of the edit. */
export async function contextsOf(runtime: Pick<Runtime, 'db'>, job: Job): Promise<Map<string, FactContext>> {
  const wrong = await runtime.db.select().from(clocks).where(eq(clocks.job, job.id));
  const rows = await runtime.db
    .select({ id: cards.id, camera: cards.camera, day: cards.day })
    .from(cards)
    .where(eq(cards.job, job.id));
  return new Map(
    rows.map((c) => [
      c.id,
      {
        trust: job.trust,
        jobRate: job.rate,
        clockSeconds:
          wrong.find((w) => w.camera === c.camera && w.fromDay <= c.day && w.toDay >= c.day)?.seconds ?? 0,
      },
    ]),
  );
}

/** Works the table's facts out anew, for all clips or those named: after a clock or an order of trust changed. */
export async function showAgain(runtime: InJob, only?: readonly string[]): Promise<void> {
  const job = await theJob(runtime);
  const ids = only ?? (await clipsOf(runtime.db, runtime.job)).map((c) => c.id);
  const contexts = await contextsOf(runtime, job);
  for (let i = 0; i < ids.length; i += 200) {
    const some = ids.slice(i, i + 200);
    const rows = await runtime.db
      .select({ id: clips.id, card: clips.card, statements: clips.statements })
      .from(clips)
      .where(and(eq(clips.job, runtime.job), inArray(clips.id, some)));
    const changes = rows.map((row) => ({ id: row.id, ...workedOut(row.statements, contexts.get(row.card)) }));
    await runtime.db.execute(
      sql`update ${clips} set shown = r.shown, brief = r.brief from json_to_recordset(${JSON.stringify(changes)}::json) as r(id text, shown text, brief text) where ${clips.id} = r.id`,
    );
    await new Promise((r) => setImmediate(r));
  }
  runtime.events.changed('clips', 'cards');
}

/** Works out what is missing: after an update of Sort Shelf, whose older versions did not keep it. */
export async function showMissing(runtime: Runtime): Promise<void> {
  const missing = new Map<string, string[]>();
  for (const { id, job } of await runtime.db
    .select({ id: clips.id, job: clips.job })
    .from(clips)
    .where(isNull(clips.brief)))
    missing.set(job, [...(missing.get(job) ?? []), id]);
  for (const [job, ids] of missing) await showAgain(runtime.inJob(job), ids);
}

/**
 * Takes the rate most clips have for the job's, where nobody said, nothing is queued to be read, and no clip waits for its
 * reader any more. It is said in the logbook and can be changed. Of batches that end at the same time both see that none waits;
 * the second finds the rate settled.
 */
async function settleRate(runtime: InJob, { id }: Job): Promise<void> {
  const [job] = await runtime.db.select({ id: jobs.id, rate: jobs.rate }).from(jobs).where(eq(jobs.id, id));
  if (!job || job.rate !== null) return;
  const reading = and(eq(work.job, id), inArray(work.kind, ['read', 'rest']));
  const [queued] = await runtime.db
    .select({ id: work.id })
    .from(work)
    .where(and(reading, eq(work.state, 'queued')))
    .limit(1);
  if (queued) return;
  const [open] = await runtime.db
    .select({ id: work.id })
    .from(work)
    .innerJoin(clips, eq(clips.id, work.clip))
    .where(and(reading, eq(work.state, 'running'), eq(clips.state, 'waiting')))
    .limit(1);
  if (open) return;
  const rate = commonRate(
    (
      await runtime.db
        .select({ brief: clips.brief })
        .from(clips)
        .where(and(eq(clips.job, id), eq(clips.kind, 'video')))
    ).flatMap((r) => r.brief?.rate ?? []),
  );
  if (!rate) return;
  const settled = await runtime.db
    .update(jobs)
    .set({ rate })
    .where(and(eq(jobs.id, job.id), isNull(jobs.rate)))
    .returning({ id: jobs.id });
  if (settled.length === 0) return;
  await writeLog(
    runtime,
    'facts',
    `Took ${formatRate(rate)} fps for the rate of the edit: most clips have it, or a whole multiple`,
  );
  runtime.events.changed('job', 'log');
  await showAgain(runtime);
}

/** What a card's clips say of its camera is remembered with the label that was confirmed for it, as far as nobody said otherwise. */
async function rememberCamera(
  runtime: InJob,
  cardId: string,
  statements: readonly Statement[],
): Promise<void> {
  const facts = chooseFacts(statements);
  const [model, maker, serial] = [text(facts, 'model'), text(facts, 'maker'), text(facts, 'serial')];
  if (!model && !serial) return;
  const [row] = await runtime.db
    .select({ label: cameras.label, model: cameras.model, maker: cameras.maker, serials: cameras.serials })
    .from(cards)
    .innerJoin(cameras, and(eq(cards.job, cameras.job), eq(cards.camera, cameras.label)))
    .where(isCard(runtime.job, cardId));
  if (!row) return;
  const change = {
    ...(row.model === null && model ? { model } : {}),
    ...(row.maker === null && maker ? { maker } : {}),
    ...(serial && !row.serials.includes(serial) ? { serials: [...row.serials, serial].slice(-50) } : {}),
  };
  if (Object.keys(change).length === 0) return;
  await runtime.db
    .update(cameras)
    .set(change)
    .where(and(eq(cameras.job, runtime.job), eq(cameras.label, row.label)));
  runtime.events.changed('job');
}
