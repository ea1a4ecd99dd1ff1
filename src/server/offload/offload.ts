import { and, asc, desc, eq, inArray, isNotNull, isNull, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { Family } from '../../core/intake';
import { cardFolder } from '../../core/offload/pattern';
import {
  type NewOffload,
  type OffloadAction,
  type OffloadDestination,
  type OffloadDetail,
  type OffloadView,
  UNDER_WAY,
} from '../../core/offload/shapes';
import { HASH_WORDS } from '../../core/hashLists';
import { shownPath } from '../../core/platform/names';
import { formatBytes } from '../../core/platform/words';
import { among } from '../platform/db/among';
import {
  cardReadings,
  cards,
  clips,
  files,
  jobs,
  offloadFiles,
  offloads,
  safeCopies,
  work,
} from '../platform/db/schema';
import { cardOfClip, clipsOf, isCard } from '../platform/db/ofJob';
import {
  copiesOf,
  below,
  offered,
  type Offered,
  keepCard,
  type KnownCard,
  manifestOf,
  type PhysicalCard,
  recogniseCard,
} from '../custody';
import { filesOf, type OffloadFile, tallies } from './fileList';
import { Clash, isCode, NotFound, Refused } from '../platform/errors';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { isWithin, resolveIn } from '../platform/files/paths';
import type { InJob, Runtime } from '../runtime';
import { theJob } from '../jobs';
import { writeLog } from '../logbook';
import { alreadyIn, checkChoices, storeCard } from '../intake';
import { join, recogniseFolder } from '../cards';
import { listRoots, type Root, rootById } from '../places';
import { access, constants, lstat, mkdir } from '../platform/files/onDisk';

/** Files stored by one statement. */
const BATCH = 2000;
/** Room left free on a volume beside what is copied. Bytes. */
const SPARE = 32 << 20;

/** Begins a copying: takes the ticked clips into the job where they stand on the card, and queues the copying of their files. */
export function beginOffload(runtime: InJob, wanted: NewOffload): Promise<{ id: string }> {
  return runtime.exclusively(async () => {
    const job = await theJob(runtime);
    const looked = await recogniseFolder(runtime, wanted.root, wanted.path, wanted.singles);
    const card = looked.found.cards.find((c) => c.folder === wanted.folder);
    if (!card)
      throw new NotFound(`No card is in “${join(wanted.path, wanted.folder)}” any more.`, {
        file: wanted.folder,
        next: 'Look at the folder again.',
      });
    const ticked = new Set(wanted.clips ?? card.families.map((f) => f.files[0]!.path));
    const families = card.families.filter((f) => ticked.has(f.files[0]!.path));
    if (families.length === 0 && !(wanted.wholeCard && wanted.safe.length > 0))
      throw new Refused('No clip is ticked.', {
        next: 'Tick the clips to take, or take the whole card to a safe copy.',
      });
    if (wanted.safe.length === 0 && !wanted.shelf)
      throw new Refused('No destination is chosen.', { next: 'Choose a safe copy, the shelf, or both.' });
    if (new Set(wanted.safe).size !== wanted.safe.length)
      throw new Refused('The same destination is chosen twice.', {
        next: 'Choose different roots: two copies in one place are one copy.',
      });
    const whole = await offered(runtime, looked, wanted.folder);
    const known = await recogniseCard(runtime, whole);
    // Footage that is used in place under this id is copied under it.
    const inPlace = await alreadyIn(runtime, looked.root.id, card, join(wanted.path, wanted.folder));
    await checkKnown(runtime, wanted, whole, known, inPlace);
    const inside = below(whole.folder, join(wanted.path, wanted.folder))!;
    const clipsKnown = await knownClips(runtime, known, families, whole, inside);
    const fresh = families.filter((f) => !clipsKnown.has(f));
    const onCard = families.filter((f) => clipsKnown.get(f) !== 'elsewhere');
    const places = await placesFor(runtime, wanted, whole);
    const held = known ? await heldThere(runtime, known, places) : [];
    const safeTicks = new Set(families.flatMap((f) => f.files.map((m) => join(inside, m.path))));
    const shelfTicks = new Set(onCard.flatMap((f) => f.files.map((m) => join(inside, m.path))));
    const everything = listFiles(whole, places, {
      safe: wanted.wholeCard ? null : safeTicks,
      shelf: shelfTicks,
      held,
    });
    // A destination that has everything already gets no empty copy beside it.
    const used = places.map((_, i) => i).filter((i) => everything.some((f) => f.to.includes(i)));
    const destinations = used.map((i) => places[i]!);
    if (destinations.length === 0)
      throw new Refused('Everything that is ticked is in verified copies there already.', {
        next: 'See the card’s page: May this card be wiped?',
      });
    const list = everything.map((f) => ({ ...f, to: f.to.map((i) => used.indexOf(i)) }));
    await checkSpace(runtime, destinations, list);
    const taken = list.filter((f) => f.to.length > 0);
    const bytes = taken.reduce((n, f) => n + f.size, 0);
    const id = randomUUID();
    let ids: string[] = [];
    await runtime.db.transaction(async (tx) => {
      const from = { root: looked.root.id, folder: whole.folder };
      const { id: physical, numbers } = await keepCard(tx, whole, wanted.cardId, known);
      // What still stands on the card stands where the card is now.
      if (known) await moveOnCard(tx, known.card, from);
      const samples = new Map(
        whole.files.flatMap((w) => (w.sample ? [[below(inside, w.path) ?? '', w.sample] as const] : [])),
      );
      const place = { root: from.root, folder: join(from.folder, inside), samples, physical };
      if (fresh.length > 0 || families.length === 0)
        ids = await storeCard(tx, job.id, wanted, { ...card, families: fresh }, place);
      if (inPlace.includes(wanted.cardId))
        await tx
          .update(cards)
          .set({ physical })
          .where(and(isCard(job.id, wanted.cardId), isNull(cards.physical)));
      const rowOf = new Map<string, string>();
      for (const r of await tx
        .select({ id: files.id, path: files.path })
        .from(files)
        .where(eq(files.onCard, physical)))
        rowOf.set(r.path, r.id);
      await tx.insert(offloads).values({
        id,
        job: job.id,
        card: wanted.cardId,
        physical,
        ...from,
        state: 'queued',
        verification: wanted.verification,
        hash: wanted.hash,
        destinations,
        files: taken.length,
        bytes,
        emptyFolders: wanted.wholeCard ? whole.walked.empty.filter((p) => !isOwn(p)) : [],
        cannot: whole.cannot,
        fault: null,
        queuedAt: new Date(),
      });
      for (const [destination, d] of destinations.entries()) {
        if (d.kind !== 'safe') continue;
        const root = await rootById(tx, d.root);
        await tx.insert(safeCopies).values({
          id: randomUUID(),
          physical,
          offload: id,
          destination,
          root: d.root,
          folder: d.folder,
          verification: wanted.verification,
          hash: wanted.hash,
          madeAt: new Date(),
          volume: runtime.devices.volumeIdOf(root.path),
          disk: runtime.devices.diskOf(root.path),
        });
      }
      for (let i = 0; i < list.length; i += BATCH) {
        const fileOf = (p: string): string | null =>
          shelfTicks.has(p) ? (rowOf.get(join(from.folder, p)) ?? null) : null;
        const rows = list
          .slice(i, i + BATCH)
          .map((f, n) => ({ number: i + n, ...f, card_file: numbers.get(f.path)!, file: fileOf(f.path) }));
        // One parameter for all rows, and a breath between: the database runs in this thread, which also answers the interface.
        await tx.execute(sql`insert into ${offloadFiles} (offload, number, card_file, path, size, modified, "to", file, state)
          select ${id}, r.number, r.card_file, r.path, r.size, r.modified, r."to", r.file, case when r."to" = '[]' then 'left' else 'waiting' end
          from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(number int, card_file int, path text, size bigint, modified bigint, "to" jsonb, file text)`);
        await new Promise((r) => setImmediate(r));
      }
      const { pattern, verification, hash } = wanted;
      await tx
        .update(jobs)
        .set({ intake: { ...job.intake, pattern, verification, hash } })
        .where(eq(jobs.id, job.id));
    });
    await runtime.queue.add('read', ids);
    const again = known ? ', a card that is known' : '';
    await writeLog(
      runtime,
      'copy',
      `Began to copy ${wanted.cardId} from ${looked.root.name}${again}: ${taken.length} files, ${formatBytes(bytes)}`,
    );
    runtime.events.changed('cards', 'clips', 'job', 'log', 'copies');
    await runtime.offloads.next();
    return { id };
  });
}

/** Refuses to copy a card that is being copied, under an id of another card, with another hash than the one its copies are known by, or under a second id. */
async function checkKnown(
  runtime: InJob,
  wanted: NewOffload,
  whole: Offered,
  known: KnownCard | null,
  inPlace: readonly string[],
): Promise<void> {
  if (known) {
    const [elsewhere] = known.elsewhere;
    if (elsewhere)
      throw new Clash(`This card is ${elsewhere.label} of the job “${elsewhere.job}”.`, {
        next: 'Open that job to go on with it there, or forget the card there first. Its copies count in both.',
      });
    const [running] = await runtime.db
      .select({ card: offloads.card })
      .from(offloads)
      .where(and(eq(offloads.physical, known.card.id), inArray(offloads.state, [...UNDER_WAY])));
    if (running)
      throw new Clash(`This card is being copied already, as ${running.card}.`, {
        next: 'Let it finish, or cancel it first.',
      });
    const [first] = await runtime.db
      .select({ kind: cardReadings.kind })
      .from(cardReadings)
      .where(eq(cardReadings.card, known.card.id))
      .limit(1);
    if (first && first.kind !== wanted.hash) {
      throw new Refused(
        `This card was hashed by ${HASH_WORDS[first.kind]} when it was copied before: its copies can only be compared by the same hash.`,
        { next: `Choose ${HASH_WORDS[first.kind]}.` },
      );
    }
    if (known.labels.length > 0 && whole.cards.length === 1 && !known.labels.includes(wanted.cardId)) {
      throw new Clash(`This card is in the job as ${known.labels.join(' and ')}.`, {
        next: `Take what is new as ${known.labels[0]}. Its id can be corrected later.`,
      });
    }
  }
  await checkChoices(runtime, [wanted], [...(known?.labels ?? []), ...inPlace]);
}

/** Clips of a card that are in the job: `onCard` where their files still stand on the card, `elsewhere` where they are on the shelf, in a copy, or used in place. */
async function knownClips(
  runtime: InJob,
  known: KnownCard | null,
  families: readonly Family[],
  whole: Offered,
  inside: string,
): Promise<Map<Family, 'onCard' | 'elsewhere'>> {
  const out = new Map<Family, 'onCard' | 'elsewhere'>();
  const inPlace = new Set<string>();
  const places = families.map((f) => join(whole.folder, inside, f.files[0]!.path));
  for (let i = 0; i < places.length; i += 500) {
    const here = and(
      isNull(files.onCard),
      eq(files.root, whole.root.id),
      inArray(files.path, places.slice(i, i + 500)),
    );
    for (const r of await runtime.db.select({ path: files.path }).from(files).where(here))
      inPlace.add(r.path);
  }
  const rows = known
    ? await runtime.db
        .select({ path: files.path, sample: files.sample, onCard: files.onCard })
        .from(files)
        .innerJoin(clips, eq(clips.id, files.clip))
        .innerJoin(cards, cardOfClip)
        .where(and(eq(cards.job, runtime.job), eq(cards.physical, known.card.id), eq(files.role, 'original')))
    : [];
  const standing = new Set(rows.filter((r) => r.onCard).map((r) => below(known!.card.folder, r.path)));
  const taken = new Set(rows.filter((r) => !r.onCard).flatMap((r) => r.sample ?? []));
  const sampleOf = new Map(whole.files.map((f) => [f.path, f.sample]));
  for (const [i, f] of families.entries()) {
    const p = join(inside, f.files[0]!.path);
    const sample = sampleOf.get(p);
    if (inPlace.has(places[i]!) || (sample && taken.has(sample))) out.set(f, 'elsewhere');
    else if (standing.has(p)) out.set(f, 'onCard');
  }
  return out;
}

/** Turns the files that still stand on a card to where the card is now, and what is to be tried again with it. */
async function moveOnCard(
  tx: Parameters<Parameters<Runtime['db']['transaction']>[0]>[0],
  card: PhysicalCard,
  to: { root: string; folder: string },
): Promise<void> {
  if (card.root === to.root && card.folder === to.folder) return;
  for (const f of await tx
    .select({ id: files.id, path: files.path })
    .from(files)
    .where(eq(files.onCard, card.id))) {
    const place = join(to.folder, below(card.folder, f.path)!);
    await tx
      .update(files)
      .set({ root: to.root, path: place, takenRoot: to.root, takenPath: place })
      .where(eq(files.id, f.id));
  }
  await tx
    .update(offloads)
    .set(to)
    .where(and(eq(offloads.physical, card.id), eq(offloads.state, 'partly')));
}

/** For each destination, the files that a verified copy on the same root holds already as they are on the card now, standing there as they were verified. */
async function heldThere(
  runtime: InJob,
  known: KnownCard,
  places: readonly OffloadDestination[],
): Promise<Set<string>[]> {
  const copies = await copiesOf(runtime, known.card.id);
  // Of an index that the camera wrote anew, an older version may be there: that is not the file.
  const kept = new Set(known.relation.kept);
  const manifest = new Map(
    (await manifestOf(runtime.db, known.card.id))
      .filter((f) => kept.has(f.number))
      .map((f) => [f.number, f.path]),
  );
  return places.map((d) => {
    const there =
      d.kind === 'safe' ? copies.filter((c) => c.row.root === d.root && c.presence === 'there') : [];
    return new Set(
      there.flatMap((c) =>
        [...c.proofs].flatMap(([n, p]) => (p === 'proven' && manifest.has(n) ? [manifest.get(n)!] : [])),
      ),
    );
  });
}

interface Listed {
  path: string;
  size: number;
  modified: number;
  to: number[];
}
interface Which {
  safe: ReadonlySet<string> | null;
  shelf: ReadonlySet<string>;
  held: readonly ReadonlySet<string>[];
}

const isOwn = (p: string): boolean => p === OWN_FOLDER || p.startsWith(`${OWN_FOLDER}/`);

/**
 * Every plain file of the card with the destinations it goes to, also those that go nowhere: what is left on it must be known
 * when it is to be wiped. `safe` of null is the whole card, word for word; what a destination holds already is not copied again.
 */
function listFiles(whole: Offered, destinations: readonly OffloadDestination[], which: Which): Listed[] {
  const out = whole.files.map(({ path: p, size, modified }): Listed => ({
    path: p,
    size,
    modified,
    to: destinations.flatMap((d, i) =>
      (
        d.kind === 'safe'
          ? (which.safe === null || which.safe.has(p)) && !which.held[i]?.has(p)
          : which.shelf.has(p)
      )
        ? [i]
        : [],
    ),
  }));
  // Clips in the order they are seen, each with its family; what belongs to none comes last.
  const order = new Map([...(which.safe ?? which.shelf)].map((p, i) => [p, i]));
  return out.sort(
    (a, b) => (order.get(a.path) ?? Infinity) - (order.get(b.path) ?? Infinity) || (a.path < b.path ? -1 : 1),
  );
}

/** Where the copies go. Refuses a place inside the source or around it, one that cannot be written, and one that is taken. */
async function placesFor(
  runtime: InJob,
  wanted: NewOffload,
  source: Pick<Offered, 'at'>,
): Promise<OffloadDestination[]> {
  const job = await theJob(runtime);
  const folder = cardFolder(wanted.pattern, {
    job: job.code,
    day: wanted.day,
    date: wanted.date,
    camera: wanted.camera,
    card: wanted.cardId,
  });
  const chosen = [
    ...wanted.safe.map((root) => ({ root, kind: 'safe' as const, base: folder })),
    ...(wanted.shelf ? [{ root: 'shelf', kind: 'shelf' as const, base: `Incoming/${wanted.cardId}` }] : []),
  ];
  const out: OffloadDestination[] = [];
  for (const { root: rootId, kind, base } of chosen) {
    const root = await rootById(runtime, rootId);
    if (kind === 'safe' && root.kind !== 'safe')
      throw new Refused(`“${root.name}” is no root for safe copies.`, { next: 'Add its folder as one.' });
    const free = await freeFolder(root, base);
    const at = await resolveIn(root, free);
    if (isWithin(at, source.at) || isWithin(source.at, at))
      throw new Refused(`“${root.name}” would be copied into itself.`, {
        file: at,
        next: 'Choose a destination outside the card.',
      });
    await mkdir(root.path);
    await access(root.path, constants.W_OK).catch((e: unknown) => {
      throw new Refused(
        `“${root.name}” cannot be written${isCode(e, 'EROFS') ? ': its volume is read only' : ''}.`,
        { file: root.path, next: 'Check the volume and its permissions, or choose another.' },
      );
    });
    out.push({ root: root.id, kind, folder: free });
  }
  return out;
}

/** The folder, or the first of "B002-2", "B002-3" … that is not there: a safe copy is never added to. */
async function freeFolder(root: Root, base: string): Promise<string> {
  for (let n = 1; ; n++) {
    const folder = n === 1 ? base : `${base}-${n}`;
    if (!(await lstat(await resolveIn(root, folder)).catch(() => null))) return folder;
  }
}

async function checkSpace(
  runtime: InJob,
  destinations: readonly OffloadDestination[],
  list: readonly Listed[],
): Promise<void> {
  const needs = new Map<string, { name: string; bytes: number; free: number }>();
  for (const [i, d] of destinations.entries()) {
    const root = await rootById(runtime, d.root);
    const volume = await runtime.devices.volumeOf(root.path);
    if (!volume)
      throw new NotFound(`“${root.name}” is not there.`, { file: root.path, next: 'Connect the volume.' });
    const n = needs.get(volume.id) ?? { name: '', bytes: SPARE, free: volume.free };
    n.name = n.name ? `${n.name} and ${root.name}` : root.name;
    n.bytes += list.reduce((sum, f) => sum + (f.to.includes(i) ? f.size : 0), 0);
    needs.set(volume.id, n);
  }
  for (const n of needs.values()) {
    if (n.bytes > n.free)
      throw new Refused(
        `${n.name} ${n.name.includes(' and ') ? 'need' : 'needs'} ${formatBytes(n.bytes)}; ${formatBytes(n.free)} are free.`,
        { next: 'Make room, choose another destination, or tick fewer clips.' },
      );
  }
}

/** A copying of the job. Throws NotFound. */
async function offloadOf(runtime: InJob, id: string): Promise<typeof offloads.$inferSelect> {
  const [row] = await runtime.db
    .select()
    .from(offloads)
    .where(and(eq(offloads.job, runtime.job), eq(offloads.id, id)));
  if (!row) throw new NotFound('This copy is not known.', { next: 'Go back to Intake.' });
  return row;
}

export async function actOnOffload(
  runtime: InJob,
  id: string,
  { action, destination }: OffloadAction,
): Promise<void> {
  const row = await offloadOf(runtime, id);
  const only = (...states: (typeof row.state)[]) => {
    if (!states.includes(row.state))
      throw new Refused(`The copy of ${row.card} is ${STATE_WORDS[row.state]}.`);
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
    await runtime.db
      .update(offloadFiles)
      .set({ state: 'waiting', fault: null })
      .where(and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'failed')));
    await runtime.db
      .update(offloads)
      .set({ state: 'queued', fault: null, endedAt: null })
      .where(eq(offloads.id, id));
    await runtime.offloads.next();
  } else {
    only('paused');
    const left = row.destinations.map((d, i) => (i === destination ? { ...d, dropped: true } : d));
    if (destination === undefined || !row.destinations[destination] || left.every((d) => d.dropped))
      throw new Refused('A copy needs at least one destination.', { next: 'Cancel it instead.' });
    await runtime.db.update(offloads).set({ destinations: left }).where(eq(offloads.id, id));
    // What goes nowhere any more is left on the card.
    for await (const page of filesOf(runtime, id, ['waiting'])) {
      const nowhere = page.filter((f) => f.to.every((i) => left[i]!.dropped)).map((f) => f.number);
      if (nowhere.length > 0)
        await runtime.db
          .update(offloadFiles)
          .set({ state: 'left' })
          .where(and(eq(offloadFiles.offload, id), inArray(offloadFiles.number, nowhere)));
    }
    await runtime.offloads.resume(id);
  }
  runtime.events.changed('copies', 'log', 'clips', 'cards');
}

/** Clips of a cancelled copying whose files are not all in a copy leave the job: they are on the card as they were. */
async function forgetUncopied(runtime: InJob, id: string): Promise<void> {
  const waiting = await runtime.db
    .selectDistinct({ clip: files.clip, card: clips.card })
    .from(offloadFiles)
    .innerJoin(files, eq(files.id, offloadFiles.file))
    .innerJoin(clips, eq(clips.id, files.clip))
    .where(
      and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'waiting'), isNotNull(offloadFiles.file)),
    );
  const ids = waiting.map((w) => w.clip);
  if (ids.length === 0) return;
  const open = await runtime.db
    .select({ id: work.id })
    .from(work)
    .where(and(among(work.clip, ids), inArray(work.state, ['queued', 'running'])));
  await runtime.queue.cancel(open.map((o) => o.id));
  await runtime.db.delete(clips).where(among(clips.id, ids));
  for (const card of new Set(waiting.map((w) => w.card))) {
    const [left] = await clipsOf(runtime.db, runtime.job, card).limit(1);
    if (!left) await runtime.db.delete(cards).where(isCard(runtime.job, card));
  }
}

const STATE_WORDS: Record<OffloadView['state'], string> = {
  queued: 'waiting for its turn',
  running: 'running',
  paused: 'paused',
  waiting: 'waiting for its card',
  naming: 'being named',
  done: 'done',
  partly: 'done but for some files',
  cancelled: 'cancelled',
};

interface Tally {
  verified: number;
  failed: number;
  bytes: number;
}
function viewOf(
  row: typeof offloads.$inferSelect,
  roots: ReadonlyMap<string, Root>,
  tally: Tally | undefined,
  label: string | undefined,
): OffloadView {
  return {
    id: row.id,
    card: label ?? row.card,
    physical: row.physical,
    from: `${roots.get(row.root)?.name ?? row.root}${row.folder ? ` / ${shownPath(row.folder)}` : ''}`,
    state: row.state,
    verification: row.verification,
    hash: row.hash,
    destinations: row.destinations.map((d) => ({
      ...d,
      rootName: roots.get(d.root)?.name ?? d.root,
      place: shownPath(joinPath(roots.get(d.root)?.path ?? '', d.folder)),
    })),
    files: row.files,
    bytes: row.bytes,
    verified: tally?.verified ?? 0,
    failed: tally?.failed ?? 0,
    verifiedBytes: tally?.bytes ?? 0,
    fault: row.fault,
    speed: row.speed,
    startedAt: row.startedAt?.toISOString() ?? null,
    endedAt: row.endedAt?.toISOString() ?? null,
    cannot: row.cannot.map((c) => ({ path: shownPath(c.path), reason: c.reason })),
  };
}

/** What each physical card is called now: an id that was corrected is said as it is. */
async function labelsOf(runtime: InJob): Promise<Map<string, string>> {
  const rows = await runtime.db
    .select({ id: cards.id, physical: cards.physical })
    .from(cards)
    .where(and(eq(cards.job, runtime.job), isNotNull(cards.physical)))
    .orderBy(desc(cards.id));
  return new Map(rows.map((r) => [r.physical!, r.id]));
}

/** The copies of this job, the newest first. */
export async function offloadViews(runtime: InJob): Promise<OffloadView[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const [rows, tally] = [
    await runtime.db
      .select()
      .from(offloads)
      .where(eq(offloads.job, runtime.job))
      .orderBy(desc(offloads.queuedAt))
      .limit(200),
    await tallies(runtime),
  ];
  const labels = await labelsOf(runtime);
  return rows.map((r) => viewOf(r, roots, tally.get(r.id), labels.get(r.physical)));
}

/** One copy with its files: those that failed or are noted first, then those that wait; at most 500. */
export async function offloadDetail(runtime: InJob, id: string): Promise<OffloadDetail> {
  const row = await offloadOf(runtime, id);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const list: OffloadFile[] = [];
  const of = (...states: OffloadFile['state'][]) =>
    runtime.db
      .select()
      .from(offloadFiles)
      .where(and(eq(offloadFiles.offload, id), inArray(offloadFiles.state, states)))
      .orderBy(asc(offloadFiles.number))
      .limit(500 - list.length);
  list.push(...(await of('failed')));
  if (list.length < 500)
    list.push(
      ...(await runtime.db
        .select()
        .from(offloadFiles)
        .where(
          and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'verified'), isNotNull(offloadFiles.note)),
        )
        .limit(500 - list.length)),
    );
  if (list.length < 500) list.push(...(await of('verified', 'waiting')).filter((f) => f.note === null));
  return {
    ...viewOf(row, roots, (await tallies(runtime)).get(id), (await labelsOf(runtime)).get(row.physical)),
    rates: runtime.offloads.ratesOf(id),
    list: list.map((f) => ({
      path: shownPath(f.path),
      size: f.size,
      state: f.state as Exclude<OffloadFile['state'], 'left'>,
      hash: f.hash,
      fault: f.fault,
      note: f.note,
    })),
  };
}
