import { and, asc, eq, inArray } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import PQueue from 'p-queue';
import path from 'node:path';
import { counterGaps } from '../../core/cards/counter';
import { type FoundEntry, recognise, type Recognised, type RecognisedCard } from '../../core/cards/recognise';
import { isVideo } from '../../core/cards/shape';
import { suggestCard } from '../../core/cards/suggest';
import { chooseFacts, text } from '../../core/facts/facts';
import type { CardChoice, Looked, LookedCard, TakeIn } from '../../core/shapes';
import { cameras, cards, clips, days, files, work } from '../db/schema';
import { Clash, isCode, NotFound, Refused, messageOf } from '../errors';
import { OWN_FOLDER } from '../files/journal';
import { resolveIn } from '../files/paths';
import { walk } from '../files/walk';
import { sniff } from '../media/probe';
import type { Runtime } from '../runtime';
import { theJob } from './job';
import { writeLog } from './log';
import { readStatements } from './readClip';
import { rootById, type Root } from './roots';
import { clipViews } from './views';

/** Clips stored by one statement. */
const BATCH = 200;

const join = (...parts: string[]): string => parts.filter((p) => p !== '').join('/');

async function recogniseFolder(runtime: Runtime, rootId: string, folder: string): Promise<{ root: Root; at: string; found: Recognised; faults: Map<string, string> }> {
  const root = await rootById(runtime, rootId);
  const at = await resolveIn(root, folder);
  let entries: FoundEntry[];
  try {
    ({ entries } = await walk(at));
  } catch (e) {
    if (isCode(e, 'ENOENT')) throw new NotFound(`The folder “${folder || root.name}” is not there any more.`, { file: at, next: 'Go up a level and choose again, or connect the volume.' });
    if (isCode(e, 'ENOTDIR')) throw new NotFound(`“${folder}” is a file, not a folder.`, { file: at });
    throw e;
  }
  entries = entries.filter((e) => !e.path.startsWith(`${OWN_FOLDER}/`));
  const faults = new Map<string, string>();
  const queue = new PQueue({ concurrency: 8 });
  await queue.addAll(entries.filter((e) => e.kind === 'file' && e.size > 0 && isVideo(e.path)).map((e) => async () => {
    const fault = await sniff(path.join(at, e.path), e.size).catch((err: unknown) => ({ footage: true, fault: `cannot be read: ${messageOf(err)}` }));
    if (!fault) return;
    if (fault.footage) faults.set(e.path, fault.fault);
    else e.fault = fault.fault;
  }));
  return { root, at, found: recognise(entries), faults };
}

/** What stands in a folder: the cards in it, each with a suggestion for its place. Stores nothing. */
export async function look(runtime: Runtime, rootId: string, folder: string): Promise<Looked> {
  const job = await theJob(runtime);
  const { root, at, found, faults } = await recogniseFolder(runtime, rootId, folder);
  const known = {
    cameras: await runtime.db.select().from(cameras).orderBy(asc(cameras.letter)),
    cardIds: (await runtime.db.select({ id: cards.id }).from(cards)).map((c) => c.id),
    days: (await runtime.db.select().from(days)).flatMap((d) => (d.date ? [{ number: d.number, date: d.date }] : [])),
  };
  const looked: LookedCard[] = [];
  for (const card of found.cards) {
    const evidence = await evidenceOf(card, path.join(at, card.folder), job.zoneMinutes);
    const suggestion = suggestCard(known, { folders: join(root.name, folder, card.folder).split('/'), ...evidence });
    const already = await alreadyIn(runtime, root.id, card, join(folder, card.folder));
    if (already.length === 0) {
      // The next card of this look must not be offered the same id, nor a day that this one has just taken.
      known.cardIds.push(suggestion.cardId.value);
      if (evidence.date && !known.days.some((d) => d.date === evidence.date)) known.days.push({ number: suggestion.day.value, date: evidence.date });
      if (!known.cameras.some((c) => c.letter === suggestion.camera.value)) known.cameras.push({ letter: suggestion.camera.value, model: evidence.model });
    }
    looked.push({
      folder: card.folder, shape: card.shape, proxySuffix: card.proxySuffix, gaps: counterGaps(card.families.map((f) => f.stem)), model: evidence.model, suggestion, already,
      clips: card.families.map((f) => ({ stem: f.stem, bytes: f.files.reduce((n, m) => n + m.size, 0), files: f.files.map((m) => ({ path: m.path, role: m.role, size: m.size })) })),
      aside: [...card.aside, ...card.families.flatMap((f) => f.files).flatMap((m) => {
        const fault = faults.get(join(card.folder, m.path));
        return fault ? [{ path: m.path, size: m.size, reason: `${fault}. It is taken in as it is, and marked.` }] : [];
      })],
    });
  }
  return { root: rootId, path: folder, cards: looked, aside: found.aside };
}

/** Model and date from the first clip that tells. At most three are read, for this runs while the person waits. */
async function evidenceOf(card: RecognisedCard, at: string, zoneMinutes: number): Promise<{ model: string | null; date: string | null }> {
  const told: { model: string | null; date: string | null } = { model: null, date: null };
  for (const family of card.families.slice(0, 3)) {
    const { statements } = await readStatements(family.files.map((f) => ({ role: f.role, file: path.join(at, f.path), size: f.size, modified: f.modified })), zoneMinutes);
    const facts = chooseFacts(statements);
    told.model ??= text(facts, 'model');
    const recorded = facts.get('recordedAt')?.chosen.value;
    if (recorded?.type === 'moment') told.date ??= recorded.moment.local.slice(0, 10);
    if (told.date) break;
  }
  return told;
}

async function alreadyIn(runtime: Runtime, rootId: string, card: RecognisedCard, folder: string): Promise<string[]> {
  const places = card.families.map((f) => join(folder, f.files[0]!.path));
  const ids = new Set<string>();
  for (let i = 0; i < places.length; i += 500) {
    const rows = await runtime.db.select({ card: clips.card, root: files.root }).from(files).innerJoin(clips, eq(files.clip, clips.id)).where(inArray(files.path, places.slice(i, i + 500)));
    for (const r of rows) if (r.root === rootId) ids.add(r.card);
  }
  return [...ids].sort();
}

/** Takes cards in, in place: stores what was recognised and queues the reading. Nothing on disk is touched. */
export function takeIn(runtime: Runtime, wanted: TakeIn): Promise<{ cards: { id: string; clips: number }[] }> {
  return runtime.exclusively(async () => {
    await theJob(runtime);
    const { root, found } = await recogniseFolder(runtime, wanted.root, wanted.path);
    const taken: { id: string; clips: number }[] = [];
    const ids: string[] = [];
    for (const choice of wanted.cards) {
      const card = found.cards.find((c) => c.folder === choice.folder);
      if (!card) throw new NotFound(`No card is in “${join(wanted.path, choice.folder)}” any more.`, { file: choice.folder, next: 'Look at the folder again.' });
      const already = await alreadyIn(runtime, root.id, card, join(wanted.path, card.folder));
      if (already.length > 0) throw new Clash(`“${join(wanted.path, card.folder)}” has been taken in already, as ${already.join(', ')}.`, { file: choice.folder });
    }
    await checkChoices(runtime, wanted.cards);
    await runtime.db.transaction(async (tx) => {
      for (const choice of wanted.cards) {
        const card = found.cards.find((c) => c.folder === choice.folder)!;
        await tx.insert(cameras).values({ letter: choice.camera, model: null }).onConflictDoNothing();
        await tx.insert(days).values({ number: choice.day, date: choice.date }).onConflictDoNothing();
        await tx.insert(cards).values({
          id: choice.cardId, camera: choice.camera, day: choice.day, shape: card.shape.id, root: root.id, folder: join(wanted.path, card.folder),
          aside: card.aside, proxySuffix: card.proxySuffix, takenAt: new Date(),
        });
        const families = card.families.map((family) => ({ clip: randomUUID(), family }));
        ids.push(...families.map((f) => f.clip));
        for (let i = 0; i < families.length; i += BATCH) {
          const some = families.slice(i, i + BATCH);
          await tx.insert(clips).values(some.map(({ clip, family }) => ({ id: clip, card: choice.cardId, original: family.stem, state: 'waiting' as const, statements: [], audio: [] })));
          await tx.insert(files).values(some.flatMap(({ clip, family }) => family.files.map((f) => {
            const place = join(wanted.path, card.folder, f.path);
            return { id: randomUUID(), clip, role: f.role, root: root.id, path: place, takenRoot: root.id, takenPath: place, suffix: f.suffix, size: f.size, modified: f.modified };
          })));
        }
        taken.push({ id: choice.cardId, clips: card.families.length });
      }
    });
    await runtime.queue.add('read', ids);
    for (const t of taken) await writeLog(runtime, 'takeIn', `Took in ${t.id}: ${t.clips} ${t.clips === 1 ? 'clip' : 'clips'}, in place`);
    runtime.events.changed('cards', 'clips', 'job', 'log');
    return { cards: taken };
  });
}

/** Takes a card out of the job, as if it had never been taken in. Nothing on disk is touched. Refused once its clips are named. */
export function forgetCard(runtime: Runtime, id: string): Promise<void> {
  return runtime.exclusively(async () => {
    const views = await clipViews(runtime, id);
    if (views.some((v) => v.named)) throw new Refused(`Clips of ${id} have been named.`, { next: 'Undo the naming in the logbook first.' });
    const ids = views.map((v) => v.id);
    if (ids.length > 0) {
      const open = await runtime.db.select({ id: work.id }).from(work).where(and(inArray(work.clip, ids), inArray(work.state, ['queued', 'running'])));
      await runtime.queue.cancel(open.map((o) => o.id));
    }
    await runtime.db.transaction(async (tx) => {
      await tx.delete(clips).where(eq(clips.card, id));
      const [gone] = await tx.delete(cards).where(eq(cards.id, id)).returning({ day: cards.day });
      // A day that this card alone had brought goes with it, so that its date can be given anew.
      if (gone && (await tx.select({ id: cards.id }).from(cards).where(eq(cards.day, gone.day))).length === 0) await tx.delete(days).where(eq(days.number, gone.day));
    });
    await writeLog(runtime, 'takeIn', `Forgot ${id}: ${views.length} ${views.length === 1 ? 'clip' : 'clips'}, left on disk as they are`);
    runtime.events.changed('cards', 'clips', 'job', 'log', 'work');
  });
}

async function checkChoices(runtime: Runtime, choices: readonly CardChoice[]): Promise<void> {
  const ids = choices.map((c) => c.cardId);
  const twice = ids.find((id, i) => ids.indexOf(id) !== i);
  if (twice) throw new Refused(`Two cards cannot both be ${twice}.`, { next: 'Give one of them another id.' });
  const [taken] = await runtime.db.select({ id: cards.id }).from(cards).where(inArray(cards.id, ids));
  if (taken) throw new Clash(`There is a card ${taken.id} in this job already.`, { next: 'Choose another card id.' });
  for (const day of await runtime.db.select().from(days)) {
    const other = choices.find((c) => c.day === day.number && c.date !== null && day.date !== null && c.date !== day.date);
    if (other) throw new Clash(`Day ${day.number} is ${day.date}, but ${other.cardId} was recorded on ${other.date}.`, { next: 'Choose another day number for it.' });
  }
}
