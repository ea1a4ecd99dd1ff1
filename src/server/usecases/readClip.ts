import { and, count, eq, inArray, sql } from 'drizzle-orm';
import { chooseFacts, commonRate, type FactContext, factsOf, text } from '../../core/facts/facts';
import type { Statement } from '../../core/facts/catalogue';
import { showFacts } from '../../core/facts/table';
import { formatRate, parseRate } from '../../core/timecode/rate';
import { cameras, cards, clips, clocks, files, jobs, work } from '../db/schema';
import { resolveIn } from '../files/paths';
import type { WorkContext } from '../jobs/queue';
import { type ClipOnDisk, type FileOnDisk, READER, type Reading, readFirst, readRest } from '../media/readFamily';
import type { Runtime } from '../runtime';
import { type Job, theJob } from './job';
import { writeLog } from './log';
import { provePairsOf } from './provePairs';
import { listRoots } from './roots';

type ClipRow = typeof clips.$inferSelect;
type FileRow = typeof files.$inferSelect;

/** What a family's files were when they were read, in one line: changes whenever one of them does, not when they are named. */
export const stateOf = (family: readonly { role: string; size: number; modified: number }[]): string =>
  `${READER}:${family.filter((f) => f.role !== 'proxy').map((f) => `${f.role[0]}${f.size}@${Math.round(f.modified)}`).sort().join(',')}`;

async function onDisk(runtime: Runtime, row: ClipRow, family: readonly FileRow[]): Promise<ClipOnDisk> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const list = await Promise.all(family.map(async (f): Promise<FileOnDisk> => ({ role: f.role, file: await resolveIn(roots.get(f.root)!, f.path), size: f.size, modified: f.modified })));
  const original = family.find((f) => f.role === 'original');
  return { kind: row.kind, files: list, ...(original?.takenPath ? { cameraPath: original.takenPath } : {}) };
}

const optionsOf = (job: Job) => ({ zoneMinutes: job.zoneMinutes, stillsRate: job.intake.stillsRate, jobRate: job.rate });

/** The first pass over a clip: what it says in this process. The second follows by itself where there is more to ask. */
export async function readClip(runtime: Runtime, { clip }: Pick<WorkContext, 'clip'>): Promise<void> {
  const job = await theJob(runtime);
  const [row] = await runtime.db.select().from(clips).where(eq(clips.id, clip));
  if (!row) return;
  const family = await runtime.db.select().from(files).where(eq(files.clip, clip));
  const reading = await readFirst(await onDisk(runtime, row, family), optionsOf(job));
  const more = reading.fault === null && (reading.rest.probe || reading.rest.tags);
  await store(runtime, job, row, family, reading, { finished: !more });
  if (more) await runtime.queue.add('rest', [clip]);
  if (reading.fault === null && !reading.rest.probe) await afterReading(runtime, row);
  if (!more) await settleRate(runtime, job);
}

/** The second pass over a clip: ffprobe and ExifTool, for what the first could not read of its kind. */
export async function readClipRest(runtime: Runtime, { clip }: Pick<WorkContext, 'clip'>): Promise<void> {
  const job = await theJob(runtime);
  const [row] = await runtime.db.select().from(clips).where(eq(clips.id, clip));
  if (!row) return;
  const family = await runtime.db.select().from(files).where(eq(files.clip, clip));
  const disk = await onDisk(runtime, row, family);
  // The first pass costs a millisecond: reading it again is simpler than keeping what it wanted asked.
  const first = await readFirst(disk, optionsOf(job));
  const reading = await readRest(disk, optionsOf(job), first);
  await store(runtime, job, row, family, reading, { finished: true });
  if (reading.fault === null && (first.rest.probe || row.state !== 'read')) await afterReading(runtime, row);
  await settleRate(runtime, job);
}

/** Keeps what was read. A clip that ffprobe has still to be asked about is neither read nor unreadable yet. */
async function store(runtime: Runtime, job: Job, row: ClipRow, family: readonly FileRow[], reading: Reading, { finished }: { finished: boolean }): Promise<void> {
  // What the person said stays: it is no reading.
  const kept = row.statements.filter((s) => s.source === 'person' && !reading.statements.some((n) => n.field === s.field && n.source === 'person'));
  const statements = [...reading.statements, ...kept];
  const state = reading.fault !== null ? 'unreadable' as const : finished || !reading.rest.probe ? 'read' as const : 'waiting' as const;
  const context = (await contextsOf(runtime, job)).get(row.card) ?? {};
  await runtime.db.update(clips).set({
    statements, audio: reading.audio, fault: reading.fault, notes: reading.notes, state, shown: showFacts(factsOf(statements, context)),
    readAs: finished ? stateOf(family) : null,
  }).where(eq(clips.id, row.id));
  if (state === 'read') await rememberCamera(runtime, row.card, statements);
}

async function afterReading(runtime: Runtime, row: ClipRow): Promise<void> {
  await provePairsOf(runtime, row.id);
  if (row.kind !== 'sound') await runtime.queue.add('filmstrip', [row.id]);
}

/** What the job knows beside each card's clips: trust, its camera's clock on its day, the rate of the edit. */
export async function contextsOf(runtime: Pick<Runtime, 'db'>, job: Job | null): Promise<Map<string, FactContext>> {
  const wrong = await runtime.db.select().from(clocks);
  const rows = await runtime.db.select({ id: cards.id, camera: cards.camera, day: cards.day }).from(cards);
  return new Map(rows.map((c) => [c.id, {
    trust: job?.trust ?? {}, jobRate: job?.rate ?? null, clockSeconds: wrong.find((w) => w.camera === c.camera && w.fromDay <= c.day && w.toDay >= c.day)?.seconds ?? 0,
  }]));
}

/** Works the table's facts out anew, for all clips or those named: after a clock or an order of trust changed. */
export async function showAgain(runtime: Runtime, only?: readonly string[]): Promise<void> {
  const job = await theJob(runtime);
  const ids = only ?? (await runtime.db.select({ id: clips.id }).from(clips)).map((c) => c.id);
  const contexts = await contextsOf(runtime, job);
  for (let i = 0; i < ids.length; i += 200) {
    const some = ids.slice(i, i + 200);
    const rows = await runtime.db.select().from(clips).where(inArray(clips.id, some));
    await runtime.db.transaction(async (tx) => {
      for (const row of rows) await tx.update(clips).set({ shown: showFacts(factsOf(row.statements, contexts.get(row.card))) }).where(eq(clips.id, row.id));
    });
    await new Promise((r) => setImmediate(r));
  }
  runtime.events.changed('clips', 'cards');
}

/**
 * Takes the rate most clips have for the job's, where nobody said and nothing is being read any more. It is said in the
 * logbook and can be changed.
 */
async function settleRate(runtime: Runtime, job: Job): Promise<void> {
  if (job.rate !== null) return;
  const [open] = await runtime.db.select({ n: count() }).from(work).where(and(inArray(work.kind, ['read', 'rest']), inArray(work.state, ['queued', 'running'])));
  // This very piece of work is still counted.
  if ((open?.n ?? 0) > 1) return;
  const rows = await runtime.db.select({ words: sql<string | null>`${clips.shown}->'rate'->>0` }).from(clips).where(eq(clips.kind, 'video'));
  const rate = commonRate(rows.flatMap((r) => (r.words ? (parseRate(r.words.replace(/ fps$/, '')) ?? []) : [])));
  if (!rate) return;
  await runtime.db.update(jobs).set({ rate }).where(eq(jobs.id, job.id));
  await writeLog(runtime, 'facts', `Took ${formatRate(rate)} fps for the rate of the edit: most clips have it, or a whole multiple`);
  runtime.events.changed('job', 'log');
  await showAgain(runtime);
}

/** What a card's clips say of its camera is remembered with the letter that was confirmed for it, as far as nobody said otherwise. */
async function rememberCamera(runtime: Runtime, cardId: string, statements: readonly Statement[]): Promise<void> {
  const facts = chooseFacts(statements.filter((s) => s.field === 'model' || s.field === 'maker' || s.field === 'serial'));
  const [model, maker, serial] = [text(facts, 'model'), text(facts, 'maker'), text(facts, 'serial')];
  if (!model && !serial) return;
  const [row] = await runtime.db.select({ letter: cameras.letter, model: cameras.model, maker: cameras.maker, serials: cameras.serials })
    .from(cards).innerJoin(cameras, eq(cards.camera, cameras.letter)).where(eq(cards.id, cardId));
  if (!row) return;
  const change = {
    ...(row.model === null && model ? { model } : {}), ...(row.maker === null && maker ? { maker } : {}),
    ...(serial && !row.serials.includes(serial) ? { serials: [...row.serials, serial].slice(-50) } : {}),
  };
  if (Object.keys(change).length === 0) return;
  await runtime.db.update(cameras).set(change).where(eq(cameras.letter, row.letter));
  runtime.events.changed('job');
}
