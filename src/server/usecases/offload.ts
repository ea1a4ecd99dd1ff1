import { and, asc, desc, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { access, constants, lstat, mkdir } from 'node:fs/promises';
import path from 'node:path';
import type { RecognisedCard } from '../../core/cards/recognise';
import { cardFolder } from '../../core/copying/pattern';
import { type NewOffload, type OffloadAction, type OffloadDestination, type OffloadDetail, type OffloadView, UNDER_WAY } from '../../core/copying/shapes';
import type { Cannot } from '../../core/copying/wipe';
import { shownPath } from '../../core/names';
import { formatBytes } from '../../core/words';
import { cards, clips, files, jobs, offloadFiles, offloads, work } from '../db/schema';
import { filesOf, type OffloadFile, tallies } from '../copy/fileList';
import { Clash, isCode, NotFound, Refused } from '../errors';
import { OWN_FOLDER } from '../files/journal';
import { diskPath } from '../files/names';
import { resolveIn } from '../files/paths';
import type { Walked } from '../files/walk';
import type { Runtime } from '../runtime';
import { theJob } from './job';
import { writeLog } from './log';
import { samplesOf } from './look';
import { join, recogniseFolder } from './recogniseFolder';
import { listRoots, type Root, rootById } from './roots';
import { checkChoices, storeCard } from './takeIn';

/** Files stored by one statement. */
const BATCH = 2000;
/** Room left free on a volume beside what is copied. Bytes. */
const SPARE = 32 << 20;

/** Begins a copying: takes the ticked clips into the job where they stand on the card, and queues the copying of their files. */
export function beginOffload(runtime: Runtime, wanted: NewOffload): Promise<{ id: string }> {
  return runtime.exclusively(async () => {
    const job = await theJob(runtime);
    const { root, at, found, walked } = await recogniseFolder(runtime, wanted.root, wanted.path, wanted.singles);
    const card = found.cards.find((c) => c.folder === wanted.folder);
    if (!card) throw new NotFound(`No card is in “${join(wanted.path, wanted.folder)}” any more.`, { file: wanted.folder, next: 'Look at the folder again.' });
    const ticked = new Set(wanted.clips ?? card.families.map((f) => f.files[0]!.path));
    const families = card.families.filter((f) => ticked.has(f.files[0]!.path));
    if (families.length === 0 && !(wanted.wholeCard && wanted.safe.length > 0)) throw new Refused('No clip is ticked.', { next: 'Tick the clips to take, or take the whole card to a safe copy.' });
    if (wanted.safe.length === 0 && !wanted.shelf) throw new Refused('No destination is chosen.', { next: 'Choose a safe copy, the shelf, or both.' });
    if (new Set(wanted.safe).size !== wanted.safe.length) throw new Refused('The same destination is chosen twice.', { next: 'Choose different roots: two copies in one place are one copy.' });
    const [running] = await runtime.db.select({ card: offloads.card }).from(offloads)
      .where(and(eq(offloads.root, root.id), eq(offloads.folder, join(wanted.path, wanted.folder)), inArray(offloads.state, [...UNDER_WAY])));
    if (running) throw new Clash(`This card is being copied already, as ${running.card}.`, { next: 'Let it finish, or cancel it first.' });
    await checkChoices(runtime, [wanted]);
    const destinations = await placesFor(runtime, wanted, { root, folder: path.join(at, wanted.folder) });
    const list = listFiles(card, walked, families.flatMap((f) => f.files.map((m) => m.path)), destinations, wanted.wholeCard);
    await checkSpace(runtime, destinations, list.files);
    const taken = list.files.filter((f) => f.to.length > 0);
    const bytes = taken.reduce((n, f) => n + f.size, 0);
    const id = randomUUID();
    const samples = await samplesOf(families, path.join(at, wanted.folder));
    let ids: string[] = [];
    await runtime.db.transaction(async (tx) => {
      const from = { root: root.id, folder: join(wanted.path, wanted.folder) };
      ids = await storeCard(tx, wanted, { ...card, families }, { ...from, samples });
      const rowOf = new Map<string, string>();
      for (let i = 0; i < ids.length; i += 500) {
        for (const r of await tx.select({ id: files.id, path: files.path }).from(files).where(inArray(files.clip, ids.slice(i, i + 500)))) rowOf.set(r.path, r.id);
      }
      await tx.insert(offloads).values({
        id, card: wanted.cardId, ...from, state: 'queued', verification: wanted.verification, hash: wanted.hash, destinations, files: taken.length, bytes,
        emptyFolders: list.emptyFolders, cannot: list.cannot, fault: null, queuedAt: new Date(),
      });
      for (let i = 0; i < list.files.length; i += BATCH) {
        const rows = list.files.slice(i, i + BATCH).map((f, n) => ({ number: i + n, ...f, file: rowOf.get(join(from.folder, f.path)) ?? null }));
        // One parameter for all rows, and a breath between: the database runs in this thread, which also answers the interface.
        await tx.execute(sql`insert into ${offloadFiles} (offload, number, path, size, modified, "to", file, state)
          select ${id}, r.number, r.path, r.size, r.modified, r."to", r.file, case when r."to" = '[]' then 'left' else 'waiting' end
          from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(number int, path text, size bigint, modified bigint, "to" jsonb, file text)`);
        await new Promise((r) => setImmediate(r));
      }
      await tx.update(jobs).set({ intake: { ...job.intake, pattern: wanted.pattern, verification: wanted.verification, hash: wanted.hash } });
    });
    await runtime.queue.add('read', ids);
    await writeLog(runtime, 'copy', `Began to copy ${wanted.cardId} from ${root.name}: ${taken.length} files, ${formatBytes(bytes)}`);
    runtime.events.changed('cards', 'clips', 'job', 'log', 'copies');
    await runtime.offloads.next();
    return { id };
  });
}

interface Listed { path: string; size: number; modified: number; to: number[] }
/** Every plain file of the card, also those that go nowhere: what is left on it must be known when it is to be wiped. */
interface FileList { files: Listed[]; emptyFolders: string[]; cannot: Cannot[] }

/** What is copied where: safe copies take the whole card word for word, or the ticked clips; the shelf the ticked clips only. */
function listFiles(card: RecognisedCard, walked: Walked, ticked: readonly string[], destinations: readonly OffloadDestination[], wholeCard: boolean): FileList {
  const inside = (p: string): string | null => (card.folder === '' ? p : p.startsWith(`${card.folder}/`) ? p.slice(card.folder.length + 1) : null);
  const wanted = new Set(ticked);
  const safe = destinations.flatMap((d, i) => (d.kind === 'safe' ? [i] : []));
  const shelf = destinations.flatMap((d, i) => (d.kind === 'shelf' ? [i] : []));
  const out: Listed[] = [];
  const cannot: Cannot[] = [];
  for (const e of walked.entries) {
    const p = inside(e.path);
    if (p === null || p === OWN_FOLDER || p.startsWith(`${OWN_FOLDER}/`)) continue;
    if (e.kind !== 'file') {
      cannot.push(e.fault ? { path: p, reason: e.fault, unread: true } : { path: p, reason: e.kind === 'link' ? 'a link' : 'a pipe, socket or device' });
      continue;
    }
    const to = [...(wholeCard || wanted.has(p) ? safe : []), ...(wanted.has(p) ? shelf : [])];
    out.push({ path: p, size: e.size, modified: e.modified, to });
  }
  // Clips in the order they are seen, each with its family; what belongs to none comes last.
  const order = new Map(ticked.map((p, i) => [p, i]));
  out.sort((a, b) => (order.get(a.path) ?? Infinity) - (order.get(b.path) ?? Infinity) || (a.path < b.path ? -1 : 1));
  return { files: out, cannot, emptyFolders: wholeCard ? walked.empty.flatMap((p) => inside(p) ?? []) : [] };
}

/** Where the copies go. Refuses a place inside the source or around it, one that cannot be written, and one that is taken. */
async function placesFor(runtime: Runtime, wanted: NewOffload, source: { root: Root; folder: string }): Promise<OffloadDestination[]> {
  const job = await theJob(runtime);
  const folder = cardFolder(wanted.pattern, { job: job.code, day: wanted.day, date: wanted.date, camera: wanted.camera, card: wanted.cardId });
  const chosen = [...wanted.safe.map((root) => ({ root, kind: 'safe' as const, base: folder })), ...(wanted.shelf ? [{ root: 'shelf', kind: 'shelf' as const, base: `Incoming/${wanted.cardId}` }] : [])];
  const out: OffloadDestination[] = [];
  for (const { root: rootId, kind, base } of chosen) {
    const root = await rootById(runtime, rootId);
    if (kind === 'safe' && root.kind !== 'safe') throw new Refused(`“${root.name}” is no root for safe copies.`, { next: 'Add its folder as one.' });
    const free = await freeFolder(root, base);
    const at = await resolveIn(root, free);
    const [inner, outer] = [path.relative(source.folder, at), path.relative(at, source.folder)];
    if (inner === '' || !inner.startsWith('..') || !outer.startsWith('..')) throw new Refused(`“${root.name}” would be copied into itself.`, { file: at, next: 'Choose a destination outside the card.' });
    await mkdir(root.path, { recursive: true });
    await access(root.path, constants.W_OK).catch((e: unknown) => {
      throw new Refused(`“${root.name}” cannot be written${isCode(e, 'EROFS') ? ': its volume is read only' : ''}.`, { file: root.path, next: 'Check the volume and its permissions, or choose another.' });
    });
    out.push({ root: root.id, kind, folder: free });
  }
  return out;
}

/** The folder, or the first of "B002-2", "B002-3" … that is not there: a safe copy is never added to. */
async function freeFolder(root: Root, base: string): Promise<string> {
  for (let n = 1; ; n++) {
    const folder = n === 1 ? base : `${base}-${n}`;
    if (!(await lstat(diskPath(await resolveIn(root, folder))).catch(() => null))) return folder;
  }
}

async function checkSpace(runtime: Runtime, destinations: readonly OffloadDestination[], list: readonly Listed[]): Promise<void> {
  const needs = new Map<string, { name: string; bytes: number; free: number }>();
  for (const [i, d] of destinations.entries()) {
    const root = await rootById(runtime, d.root);
    const volume = await runtime.devices.volumeOf(root.path);
    if (!volume) throw new NotFound(`“${root.name}” is not there.`, { file: root.path, next: 'Connect the volume.' });
    const n = needs.get(volume.id) ?? { name: '', bytes: SPARE, free: volume.free };
    n.name = n.name ? `${n.name} and ${root.name}` : root.name;
    n.bytes += list.reduce((sum, f) => sum + (f.to.includes(i) ? f.size : 0), 0);
    needs.set(volume.id, n);
  }
  for (const n of needs.values()) {
    if (n.bytes > n.free) throw new Refused(`${n.name} ${n.name.includes(' and ') ? 'need' : 'needs'} ${formatBytes(n.bytes)}; ${formatBytes(n.free)} are free.`, { next: 'Make room, choose another destination, or tick fewer clips.' });
  }
}

export async function actOnOffload(runtime: Runtime, id: string, { action, destination }: OffloadAction): Promise<void> {
  const [row] = await runtime.db.select().from(offloads).where(eq(offloads.id, id));
  if (!row) throw new NotFound('This copy is not known.', { next: 'Go back to Intake.' });
  const only = (...states: (typeof row.state)[]) => {
    if (!states.includes(row.state)) throw new Refused(`The copy of ${row.card} is ${STATE_WORDS[row.state]}.`);
  };
  if (action === 'pause') await runtime.offloads.pause(id);
  else if (action === 'resume') await runtime.offloads.resume(id);
  else if (action === 'cancel') {
    only('queued', 'running', 'paused', 'waiting');
    await runtime.offloads.cancel(id);
    await forgetUncopied(runtime, id);
    await writeLog(runtime, 'copy', `Cancelled the copy of ${row.card}: what was verified stays`);
  } else if (action === 'retry') {
    only('partly');
    await runtime.db.update(offloadFiles).set({ state: 'waiting', fault: null }).where(and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'failed')));
    await runtime.db.update(offloads).set({ state: 'queued', fault: null, endedAt: null }).where(eq(offloads.id, id));
    await runtime.offloads.next();
  } else {
    only('paused');
    const left = row.destinations.map((d, i) => (i === destination ? { ...d, dropped: true } : d));
    if (destination === undefined || !row.destinations[destination] || left.every((d) => d.dropped)) throw new Refused('A copy needs at least one destination.', { next: 'Cancel it instead.' });
    await runtime.db.update(offloads).set({ destinations: left }).where(eq(offloads.id, id));
    // What goes nowhere any more is left on the card.
    for await (const page of filesOf(runtime, id, ['waiting'])) {
      const nowhere = page.filter((f) => f.to.every((i) => left[i]!.dropped)).map((f) => f.number);
      if (nowhere.length > 0) await runtime.db.update(offloadFiles).set({ state: 'left' }).where(and(eq(offloadFiles.offload, id), inArray(offloadFiles.number, nowhere)));
    }
    await runtime.offloads.resume(id);
  }
  runtime.events.changed('copies', 'log', 'clips', 'cards');
}

/** Clips of a cancelled copying whose files are not all in a copy leave the job: they are on the card as they were. */
async function forgetUncopied(runtime: Runtime, id: string): Promise<void> {
  const waiting = await runtime.db.selectDistinct({ clip: files.clip, card: clips.card }).from(offloadFiles)
    .innerJoin(files, eq(files.id, offloadFiles.file)).innerJoin(clips, eq(clips.id, files.clip))
    .where(and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'waiting'), isNotNull(offloadFiles.file)));
  const ids = waiting.map((w) => w.clip);
  if (ids.length === 0) return;
  const open = await runtime.db.select({ id: work.id }).from(work).where(and(inArray(work.clip, ids), inArray(work.state, ['queued', 'running'])));
  await runtime.queue.cancel(open.map((o) => o.id));
  await runtime.db.delete(clips).where(inArray(clips.id, ids));
  for (const card of new Set(waiting.map((w) => w.card))) {
    const [left] = await runtime.db.select({ id: clips.id }).from(clips).where(eq(clips.card, card)).limit(1);
    if (!left) await runtime.db.delete(cards).where(eq(cards.id, card));
  }
}

const STATE_WORDS: Record<OffloadView['state'], string> = {
  queued: 'waiting for its turn', running: 'running', paused: 'paused', waiting: 'waiting for its card', naming: 'being named', done: 'done', partly: 'done but for some files', cancelled: 'cancelled',
};

function viewOf(row: typeof offloads.$inferSelect, roots: ReadonlyMap<string, Root>, tally: { verified: number; failed: number; bytes: number } | undefined): OffloadView {
  return {
    id: row.id, card: row.card, from: `${roots.get(row.root)?.name ?? row.root}${row.folder ? ` / ${shownPath(row.folder)}` : ''}`, state: row.state, verification: row.verification, hash: row.hash,
    destinations: row.destinations.map((d) => ({ ...d, rootName: roots.get(d.root)?.name ?? d.root, place: path.join(roots.get(d.root)?.path ?? '', d.folder) })),
    files: row.files, bytes: row.bytes, verified: tally?.verified ?? 0, failed: tally?.failed ?? 0, verifiedBytes: tally?.bytes ?? 0,
    fault: row.fault, speed: row.speed, startedAt: row.startedAt?.toISOString() ?? null, endedAt: row.endedAt?.toISOString() ?? null,
    cannot: row.cannot.map((c) => ({ path: shownPath(c.path), reason: c.reason })),
  };
}

/** The copies of this job, the newest first. */
export async function offloadViews(runtime: Runtime): Promise<OffloadView[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const [rows, tally] = [await runtime.db.select().from(offloads).orderBy(desc(offloads.queuedAt)).limit(200), await tallies(runtime)];
  return rows.map((r) => viewOf(r, roots, tally.get(r.id)));
}

/** One copy with its files: those that failed or are noted first, then those that wait; at most 500. */
export async function offloadDetail(runtime: Runtime, id: string): Promise<OffloadDetail> {
  const [row] = await runtime.db.select().from(offloads).where(eq(offloads.id, id));
  if (!row) throw new NotFound('This copy is not known.', { next: 'Go back to Intake.' });
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const list: OffloadFile[] = [];
  const of = (...states: OffloadFile['state'][]) => runtime.db.select().from(offloadFiles)
    .where(and(eq(offloadFiles.offload, id), inArray(offloadFiles.state, states))).orderBy(asc(offloadFiles.number)).limit(500 - list.length);
  list.push(...await of('failed'));
  if (list.length < 500) list.push(...await runtime.db.select().from(offloadFiles).where(and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'verified'), isNotNull(offloadFiles.note))).limit(500 - list.length));
  if (list.length < 500) list.push(...(await of('verified', 'waiting')).filter((f) => f.note === null));
  return {
    ...viewOf(row, roots, (await tallies(runtime)).get(id)), rates: runtime.offloads.ratesOf(id),
    list: list.map((f) => ({ path: shownPath(f.path), size: f.size, state: f.state as Exclude<OffloadFile['state'], 'left'>, hash: f.hash, fault: f.fault, note: f.note })),
  };
}
