import { isMade, MADE_ROLES } from '../../core/intake';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { chooseFacts, commonRate, text } from '../../core/facts/facts';
import type { Statement } from '../../core/facts/catalogue';
import { formatRate } from '../../core/platform/timecode/rate';
import { cameras, cards, clips, files } from '../cards/tables';
import { jobs } from '../jobs/tables';
import { shown } from './tables';
import { work } from '../platform/work/tables';
import { asError, isFull } from '../platform/errors';
import { awayOf, isCard, placeOf, byClip, type FileRow } from '../cards';
import { NotNow, type WorkContext } from '../platform/work/kinds';
import {
  type ClipOnDisk,
  type FileOnDisk,
  type Reading,
  type ReadOptions,
  READER,
  readRest,
  readFirst,
} from '../reading';
import type { InJob } from './ports';
import { type Job, requireJob, keepRate } from '../jobs';
import { writeLog } from '../logbook';
import { makeByItself, provePairsOf } from '../proxies';
import { listRoots } from '../places';
import { keepReadings, upToDate } from './workOut';

type ClipRow = typeof clips.$inferSelect;

/** What a family's files were when they were read, in one line: changes whenever one of them does, not when they are named. */
export const stateOf = (family: readonly { role: string; size: number; modified: number }[]): string =>
  `${READER}:${family
    .filter((f) => !MADE_ROLES.some((r) => r === f.role))
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
  contexts: readonly Pick<WorkContext, 'id' | 'subject'>[],
): Promise<Batch> {
  const ids = contexts.map((c) => c.subject);
  const rows = new Map(
    (await runtime.db.select().from(clips).where(inArray(clips.id, ids))).map((r) => [r.id, r]),
  );
  const families = byClip(await runtime.db.select().from(files).where(inArray(files.clip, ids)));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const batch: Batch = { job: await requireJob(runtime), clips: [], failed: new Map() };
  for (const { id: work, subject: clip } of contexts) {
    const row = rows.get(clip);
    if (!row) continue;
    const family = families.get(clip) ?? [];
    try {
      const list = await Promise.all(
        // What was made of it says nothing of it, and may be away.
        family
          .filter((f) => !isMade(f.role))
          .map(async (f): Promise<FileOnDisk> => {
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

/** Leaves out what was read amiss because its drive or card went away meanwhile: that says nothing of the clip, which waits. */
async function withoutAway<C extends { work: string; row: ClipRow; reading: Reading }>(
  runtime: InJob,
  read: readonly C[],
  failed: Map<string, Error>,
): Promise<C[]> {
  const amiss = read.filter((c) => c.reading.fault !== null || c.reading.notes.length > 0);
  if (amiss.length === 0) return [...read];
  const away = await awayOf(
    runtime,
    amiss.map((c) => c.row.id),
    amiss.some((c) => c.reading.fault !== null),
  );
  return read.filter((c) => {
    const why = amiss.includes(c) ? away.get(c.row.id) : undefined;
    if (why !== undefined) failed.set(c.work, new NotNow(why));
    return why === undefined;
  });
}

/** The first pass over clips: what they say in this process. The second follows by itself where there is more to ask. */
export async function readClips(
  runtime: InJob,
  contexts: readonly Pick<WorkContext, 'id' | 'subject'>[],
): Promise<ReadonlyMap<string, Error>> {
  const { job, clips: batch, failed } = await batchOf(runtime, contexts);
  const readings = await readFirst(
    batch.map((c) => c.disk),
    optionsOf(job),
  );
  const all = batch.map((c, i) => {
    const reading = readings[i]!;
    return { ...c, reading, more: reading.fault === null && (reading.rest.probe || reading.rest.tags) };
  });
  const read = await withoutAway(runtime, all, failed);
  await store(
    runtime,
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
    failed,
  );
  await settleRate(runtime, job);
  await makeByItself(runtime);
  return failed;
}

/** The second pass over clips: ffprobe and ExifTool, for what the first could not read of their kind. */
export async function readRestOfClips(
  runtime: InJob,
  contexts: readonly Pick<WorkContext, 'id' | 'subject'>[],
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
    const read = await withoutAway(runtime, [{ ...c, reading, finished: true }], failed);
    if (read.length === 0) continue;
    await store(runtime, read, failed);
    if (reading.fault === null && (first.rest.probe || row.state !== 'read'))
      await afterReading(runtime, [c], failed);
  }
  await settleRate(runtime, job);
  await makeByItself(runtime);
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
 * Keeps what was read, all of it at once: each statement costs more than what it writes. One row that cannot be kept takes nothing from
 * the others; why is put into `failed`. A clip that ffprobe has still to be asked about is neither read nor unreadable yet.
 */
async function store(runtime: InJob, read: readonly Read[], failed: Map<string, Error>): Promise<void> {
  const write = (some: readonly Read[]) =>
    runtime.db.transaction(async (tx) => {
      const sets = some.map(changeOf);
      await tx.execute(sql`
      update ${clips} set audio = r.audio, fault = r.fault, notes = r.notes, state = r.state, read_as = r.read_as
      from json_to_recordset(${JSON.stringify(sets)}::json) as r(id text, audio jsonb, fault text, notes jsonb, state text, read_as text)
      where ${clips.id} = r.id`);
      return keepReadings(tx, runtime.job, new Map(some.map((c) => [c.row.id, c.reading.statements])));
    });
  if (read.length === 0) return;
  const cardOf = new Map<string, string>();
  const keep = async (some: readonly Read[]) => {
    for (const [clip, card] of await write(some)) cardOf.set(clip, card);
  };
  await keep(read).catch(async (whole: unknown) => {
    // Where there is no room for all of them there is none for one.
    if (isFull(whole)) throw whole;
    for (const c of read) await keep([c]).catch((e: unknown) => failed.set(c.work, asError(e)));
  });
  const cameras = new Map<string, { card: string; said: Statement[] }>();
  for (const c of read) {
    const card = cardOf.get(c.row.id);
    if (card === undefined || changeOf(c).state !== 'read') continue;
    const said = c.reading.statements.filter(
      (s) => s.field === 'model' || s.field === 'maker' || s.field === 'serial',
    );
    cameras.set(JSON.stringify([card, said]), { card, said });
  }
  for (const { card, said } of cameras.values()) await rememberCamera(runtime, card, said);
}

/** What is kept of a clip beside its facts. */
function changeOf({ row, family, reading, finished }: Read) {
  const { audio, fault, notes } = reading;
  return {
    id: row.id,
    audio,
    fault,
    notes,
    state:
      fault !== null
        ? ('unreadable' as const)
        : finished || !reading.rest.probe
          ? ('read' as const)
          : ('waiting' as const),
    read_as: finished ? stateOf(family) : null,
  };
}

/** What follows once clips are read. One whose pair cannot be proven, for its drive is away, is read again when that is back. */
async function afterReading(
  runtime: InJob,
  read: readonly { work: string; row: ClipRow; family: readonly FileRow[] }[],
  failed: Map<string, Error>,
): Promise<void> {
  for (const { work: piece, row, family } of read) {
    if (!family.some((f) => f.role === 'cameraProxy' || isMade(f.role))) continue;
    // Decoding takes long: what it shows is compared once the clip's filmstrip is made.
    const { offline } = await provePairsOf(runtime, row.id, { decoding: false });
    if (offline?.ofClip) failed.set(piece, new NotNow(offline.why));
  }
  await runtime.queue.add(
    'filmstrip',
    read.filter((c) => c.row.kind !== 'sound').map((c) => c.row.id),
  );
}

/**
 * Takes the rate most of the material has for the job's, where nobody said, nothing is queued to be read, and no clip waits for its
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
        .select({ brief: shown.brief })
        .from(shown)
        .innerJoin(clips, eq(clips.id, shown.clip))
        .where(and(eq(clips.job, id), eq(clips.kind, 'video')))
    ).flatMap(({ brief }) =>
      brief?.rate && brief.seconds ? [{ rate: brief.rate, seconds: brief.seconds }] : [],
    ),
  );
  if (!rate) return;
  if (!(await keepRate(runtime, rate))) return;
  await writeLog(
    runtime,
    'facts',
    `Took ${formatRate(rate)} fps for the rate of the edit: most of the material has it, or a whole multiple`,
  );
  runtime.events.changed('job', 'log');
  await upToDate(runtime);
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
