import { NOTHING_NEXT } from '../../core/next';
import { join } from '../../core/platform/names';
import { and, type AnyColumn, eq, exists, inArray, isNull, ne, or, type SQL, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { Family } from '../../core/intake';
import { cardFolder, incomingFolder } from '../../core/offload/pattern';
import { type NewOffload, type OffloadDestination, UNDER_WAY } from '../../core/offload/shapes';
import { HASH_WORDS } from '../../core/hashLists';
import { formatBytes } from '../../core/platform/words';
import { cardReadings, copyReadings, safeCopies } from '../custody/tables';
import { cards, clips, files, places } from '../cards/tables';
import { offloadFiles, offloads } from './tables';
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
  keepCopy,
} from '../custody';
import { queueCopy } from './copyCard';
import { Clash, isCode, NotFound, Refused, ShelfError } from '../platform/errors';
import { inWords } from '../platform/files/faults';
import { OWN_FOLDER } from '../platform/files/journal';
import { isWithin, resolveIn } from '../platform/files/paths';
import type { InJob, Ports } from './ports';
import { type Job, requireJob, keepIntake } from '../jobs';
import { writeLog } from '../logbook';
import { wantNext } from '../next';
import { alreadyIn, checkChoices, isSameFile, storeCard } from '../intake';
import { type LookedAt, cardOfClip, recogniseFolder, nameCard, cardStandsAt } from '../cards';
import { isAway, type Root, rootById } from '../places';
import { access, constants, lstat } from '../platform/files/onDisk';

/** Files stored by one statement. */
const BATCH = 2000;
/** Room left free on a volume beside what is copied. Bytes. */
const SPARE = 32 << 20;

type Transaction = Parameters<Parameters<Ports['db']['transaction']>[0]>[0];

/** What a person chose to copy, as it is on the card now. */
interface Chosen {
  looked: LookedAt;
  card: LookedAt['found']['cards'][number];
  /** The families that are ticked. */
  families: Family[];
  whole: Offered;
  known: KnownCard | null;
  /** Ids under which it is used in place. */
  inPlace: string[];
  /** The card's folder below what is copied. */
  inside: string;
}

/** What goes where. */
interface Route {
  /** Families that are not in the job yet. */
  fresh: Family[];
  destinations: OffloadDestination[];
  list: Listed[];
  /** Paths of files that are clips' and are still on the card only. */
  shelfTicks: ReadonlySet<string>;
}

/** Begins a copying: takes the ticked clips into the job where they are on the card, and queues the copying of their files. */
export function beginOffload(runtime: InJob, wanted: NewOffload): Promise<{ id: string }> {
  return runtime.exclusively(async () => {
    const job = await requireJob(runtime);
    const chosen = await choose(runtime, wanted);
    const route = await routeOf(runtime, wanted, chosen);
    const taken = route.list.filter((f) => f.to.length > 0);
    const bytes = taken.reduce((n, f) => n + f.size, 0);
    const id = randomUUID();
    const { looked, known } = chosen;
    const fresh = await runtime.db.transaction((tx) =>
      store(runtime, tx, { id, job, wanted, chosen, route, files: taken.length, bytes }),
    );
    await runtime.queue.add('read', fresh);
    await writeLog(
      runtime,
      'copy',
      `Started copying ${wanted.cardId} from ${looked.root.name}${known ? ', a card that is known' : ''}: ${taken.length} files, ${formatBytes(bytes)}`,
    );
    runtime.events.changed('cards', 'clips', 'job', 'log', 'copies', 'choose', 'next');
    await queueCopy(runtime, { id, job: job.id, root: looked.root.id });
    return { id };
  });
}

/** The card that is offered and what of it is ticked. Throws NotFound and Refused where that makes no copying. */
async function choose(runtime: InJob, wanted: NewOffload): Promise<Chosen> {
  const looked = await recogniseFolder(runtime, wanted.root, wanted.path, wanted.singles);
  const card = looked.found.cards.find((c) => c.folder === wanted.folder);
  const folder = join(wanted.path, wanted.folder);
  if (!card)
    throw new NotFound(`There is no card in “${folder}” now.`, {
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
  const inPlace = await alreadyIn(runtime, looked.root.id, card, folder);
  await checkKnown(runtime, wanted, whole, known, inPlace);
  return { looked, card, families, whole, known, inPlace, inside: below(whole.folder, folder)! };
}

/** Which files go to which destinations, where there is room for them. */
async function routeOf(
  runtime: InJob,
  wanted: NewOffload,
  { families, whole, known, inside }: Chosen,
): Promise<Route> {
  const clipsKnown = await knownClips(runtime, known, families, whole, inside);
  const onCard = families.filter((f) => clipsKnown.get(f) !== 'elsewhere');
  const targets = await placesFor(runtime, wanted, whole, known?.card.id ?? null);
  const held = known ? await heldThere(runtime, known, targets) : [];
  const pathsOf = (of: readonly Family[]) =>
    new Set(of.flatMap((f) => f.files.map((m) => join(inside, m.path))));
  const shelfTicks = pathsOf(onCard);
  const everything = listFiles(whole, targets, {
    safe: wanted.wholeCard ? null : pathsOf(families),
    shelf: shelfTicks,
    held,
  });
  // A destination that has everything already gets no empty copy beside it.
  const used = targets.map((_, i) => i).filter((i) => everything.some((f) => f.to.includes(i)));
  const destinations = used.map((i) => targets[i]!);
  if (destinations.length === 0)
    throw new Refused('Everything that is ticked is in verified copies there already.', {
      next: 'See the card’s page: May this card be wiped?',
    });
  const list = everything.map((f) => ({ ...f, to: f.to.map((i) => used.indexOf(i)) }));
  await checkSpace(runtime, destinations, list);
  return { fresh: families.filter((f) => !clipsKnown.has(f)), destinations, list, shelfTicks };
}

/** Stores the card, its clips, the copying and its safe copies. Returns the ids of clips that are new to the job. */
async function store(
  runtime: InJob,
  tx: Transaction,
  of: {
    id: string;
    job: Job;
    wanted: NewOffload;
    chosen: Chosen;
    route: Route;
    files: number;
    bytes: number;
  },
): Promise<string[]> {
  const { id, job, wanted, chosen, route } = of;
  const { looked, card, families, whole, known, inside } = chosen;
  const from = { root: looked.root.id, folder: whole.folder };
  const { id: physical, numbers } = await keepCard(tx, whole, wanted.cardId, known);
  // What is still on the card is where the card is now.
  if (known) await moveOnCard(tx, known.card, from);
  const samples = new Map(
    whole.files.flatMap((w) => (w.sample ? [[below(inside, w.path) ?? '', w.sample] as const] : [])),
  );
  const place = { root: from.root, folder: join(from.folder, inside), samples, physical };
  const fresh =
    route.fresh.length > 0 || families.length === 0
      ? await storeCard(tx, job.id, wanted, { ...card, families: route.fresh }, place)
      : [];
  await wantNext(tx, job.id, fresh, { ...NOTHING_NEXT, ...wanted.next });
  if (chosen.inPlace.includes(wanted.cardId)) await nameCard(tx, job.id, wanted.cardId, physical);
  await tx.insert(offloads).values({
    id,
    job: job.id,
    card: wanted.cardId,
    physical,
    ...from,
    state: 'queued',
    verification: wanted.verification,
    hash: wanted.hash,
    destinations: route.destinations,
    files: of.files,
    bytes: of.bytes,
    emptyFolders: wanted.wholeCard ? whole.walked.empty.filter((p) => !isOwn(p)) : [],
    cannot: whole.cannot,
    fault: null,
    queuedAt: new Date(),
  });
  for (const [destination, d] of route.destinations.entries()) {
    if (d.kind !== 'safe') continue;
    const root = await rootById(tx, d.root);
    await keepCopy(tx, {
      physical,
      offload: id,
      destination,
      root: d.root,
      folder: d.folder,
      verification: wanted.verification,
      hash: wanted.hash,
      volume: runtime.devices.volumeIdOf(root.path),
      disk: runtime.devices.diskOf(root.path),
    });
  }
  await storeList(tx, { id, physical, folder: from.folder, route, numbers });
  const { pattern, verification, hash } = wanted;
  await keepIntake(tx, job, { pattern, verification, hash });
  return fresh;
}

/** Stores the files of a copying. One parameter for many rows, and a breath between: the database runs in this thread, which also answers the interface. */
async function storeList(
  tx: Transaction,
  of: {
    id: string;
    physical: string;
    folder: string;
    route: Route;
    numbers: ReadonlyMap<string, number>;
  },
): Promise<void> {
  const { list, shelfTicks } = of.route;
  const onCard = await tx
    .select({ id: files.id, path: files.path })
    .from(files)
    .where(eq(files.onCard, of.physical));
  const rowOf = new Map(onCard.map((r) => [r.path, r.id]));
  const fileOf = (p: string): string | null =>
    shelfTicks.has(p) ? (rowOf.get(join(of.folder, p)) ?? null) : null;
  for (let i = 0; i < list.length; i += BATCH) {
    const rows = list
      .slice(i, i + BATCH)
      .map((f, n) => ({ number: i + n, ...f, card_file: of.numbers.get(f.path)!, file: fileOf(f.path) }));
    await tx.execute(sql`insert into ${offloadFiles} (offload, number, card_file, path, size, modified, "to", file, state)
      select ${of.id}, r.number, r.card_file, r.path, r.size, r.modified, r."to", r.file, case when r."to" = '[]' then 'left' else 'waiting' end
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(number int, card_file int, path text, size bigint, modified bigint, "to" jsonb, file text)`);
    await new Promise((r) => setImmediate(r));
  }
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
      throw new Clash(`This card is already being copied, as ${running.card}.`, {
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

/** Clips of a card that are in the job: `onCard` where their files are still on the card, `elsewhere` where they are on the shelf, in a copy, or used in place. */
async function knownClips(
  runtime: InJob,
  known: KnownCard | null,
  families: readonly Family[],
  whole: Offered,
  inside: string,
): Promise<Map<Family, 'onCard' | 'elsewhere'>> {
  const out = new Map<Family, 'onCard' | 'elsewhere'>();
  const inPlace = new Set<Family>();
  const at = new Map(families.map((f) => [join(whole.folder, inside, f.files[0]!.path), f]));
  const locations = [...at.keys()];
  for (let i = 0; i < locations.length; i += 500) {
    const here = and(
      isNull(files.onCard),
      eq(files.root, whole.root.id),
      inArray(files.path, locations.slice(i, i + 500)),
    );
    for (const r of await runtime.db
      .select({ path: files.path, size: files.size, modified: files.modified })
      .from(files)
      .where(here)) {
      const family = at.get(r.path)!;
      if (isSameFile(r, family.files[0]!)) inPlace.add(family);
    }
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
  const wasTaken = known ? await takenFrom(runtime, known) : () => false;
  const onCard = new Map(whole.files.map((f) => [f.path, f]));
  for (const f of families) {
    const p = join(inside, f.files[0]!.path);
    const file = onCard.get(p);
    const isTaken = file && ((file.sample && taken.has(file.sample)) || wasTaken(file));
    if (inPlace.has(f) || isTaken) out.set(f, 'elsewhere');
    else if (standing.has(p)) out.set(f, 'onCard');
  }
  return out;
}

/**
 * Tells whether a file of a known card is as it was, and a clip of the job that is elsewhere by now. For those without a fingerprint: it could
 * not be read when the card was offered, now or then.
 */
async function takenFrom(
  { db, job }: Pick<InJob, 'db' | 'job'>,
  { card, relation }: KnownCard,
): Promise<(file: Offered['files'][number]) => boolean> {
  const kept = new Set(relation.kept);
  const unchanged = new Set(
    (await manifestOf(db, card.id)).filter((f) => kept.has(f.number)).map((f) => f.path),
  );
  const rows = await db
    .select({ path: places.path, sample: files.sample })
    .from(places)
    .innerJoin(files, eq(files.id, places.file))
    .innerJoin(clips, eq(clips.id, files.clip))
    .where(
      and(eq(places.onCard, card.id), eq(clips.job, job), eq(files.role, 'original'), isNull(files.onCard)),
    );
  const samples = new Map(rows.flatMap((r) => (unchanged.has(r.path) ? [[r.path, r.sample] as const] : [])));
  return ({ path: at, sample }) => samples.get(at) === null || (sample === null && samples.has(at));
}

/** Turns the files that are still on a card to where the card is now, and what is to be tried again with it. */
async function moveOnCard(
  tx: Transaction,
  card: PhysicalCard,
  to: { root: string; folder: string },
): Promise<void> {
  if (card.root === to.root && card.folder === to.folder) return;
  await cardStandsAt(tx, card.id, (at) => ({
    root: to.root,
    path: join(to.folder, below(card.folder, at)!),
  }));
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
  card: string | null,
): Promise<OffloadDestination[]> {
  const job = await requireJob(runtime);
  const folder = cardFolder(wanted.pattern, {
    job: job.code,
    day: wanted.day,
    date: wanted.date,
    camera: wanted.camera,
    card: wanted.cardId,
  });
  const chosen = [
    ...wanted.safe.map((root) => ({ root, kind: 'safe' as const, base: folder })),
    ...(wanted.shelf ? [{ root: 'shelf', kind: 'shelf' as const, base: incomingFolder(wanted.cardId) }] : []),
  ];
  const out: OffloadDestination[] = [];
  for (const { root: rootId, kind, base } of chosen) {
    const root = await rootById(runtime, rootId);
    if (kind === 'safe' && root.kind !== 'safe')
      throw new Refused(`“${root.name}” is no place for safe copies.`, { next: 'Add its folder as one.' });
    const free = await freeFolder(runtime, root, base, card);
    const [around] = await copiesIn(
      runtime,
      root.id,
      sql`starts_with(${free}::text, ${safeCopies.folder} || '/')`,
    );
    if (around)
      throw new Refused(`“${root.name}: ${free}” would be inside a safe copy, “${around.folder}”.`, {
        next: 'Choose other folders for copies, or another place: a safe copy is never added to.',
      });
    const at = await resolveIn(root, free);
    if (isWithin(at, source.at) || isWithin(source.at, at))
      throw new Refused(`“${root.name}” would be copied into itself.`, {
        file: at,
        next: 'Choose a destination outside the card.',
      });
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

/**
 * The folder, or the first of "B002-2", "B002-3" … that is not there, and that is not known to be another card's (a drive that was emptied for
 * the next job, a copying that has not begun yet): a safe copy is never added to.
 */
async function freeFolder(runtime: InJob, root: Root, base: string, card: string | null): Promise<string> {
  for (let n = 1; ; n++) {
    const folder = n === 1 ? base : `${base}-${n}`;
    if (await isThere(root, folder)) continue;
    if (!(await isAnothers(runtime, root.id, folder, card))) return folder;
  }
}

/** Whether something is at a folder's place. Throws Refused where that cannot be told: a folder that cannot be looked at is not free. */
async function isThere(root: Root, folder: string): Promise<boolean> {
  try {
    await lstat(await resolveIn(root, folder));
    return true;
  } catch (e) {
    if (isCode(e, 'ENOENT', 'ENOTDIR')) return false;
    if (e instanceof ShelfError) throw e;
    throw new Refused(`“${folder}” in “${root.name}” cannot be looked at: ${inWords(e)}.`, {
      file: folder,
      next: 'Check the drive, or choose another.',
    });
  }
}

/** The first safe copy in a place for which something is so, of those that hold a file or are being made. */
const copiesIn = ({ db }: Pick<InJob, 'db'>, root: string, so: SQL | undefined) =>
  db
    .select({ folder: safeCopies.folder })
    .from(safeCopies)
    .leftJoin(offloads, eq(offloads.id, safeCopies.offload))
    .where(
      and(
        eq(safeCopies.root, root),
        so,
        or(
          inArray(offloads.state, [...UNDER_WAY]),
          exists(db.select().from(copyReadings).where(eq(copyReadings.copy, safeCopies.id))),
        ),
      ),
    )
    .limit(1);

/** Whether a folder is that of another card's copy, or footage of another card or job was last known in it. `card` is the physical one. */
async function isAnothers(
  { db, job }: Pick<InJob, 'db' | 'job'>,
  root: string,
  folder: string,
  card: string | null,
): Promise<boolean> {
  // A card that is new is none of those that are known, nor of what was used in place, which has no physical card.
  const other = (physical: AnyColumn) =>
    card === null ? sql`true` : sql`${physical} is distinct from ${card}`;
  const isThere = and(eq(safeCopies.folder, folder), other(safeCopies.physical));
  const isBelow = sql`starts_with(${safeCopies.folder}, ${`${folder}/`})`;
  if ((await copiesIn({ db }, root, or(isThere, isBelow))).length > 0) return true;
  const footage = await db
    .select({ id: files.id })
    .from(files)
    .innerJoin(clips, eq(clips.id, files.clip))
    .innerJoin(cards, cardOfClip)
    .where(
      and(
        eq(files.root, root),
        sql`starts_with(${files.path}, ${`${folder}/`})`,
        or(ne(clips.job, job), other(cards.physical)),
      ),
    )
    .limit(1);
  return footage.length > 0;
}

async function checkSpace(
  runtime: InJob,
  destinations: readonly OffloadDestination[],
  list: readonly Listed[],
): Promise<void> {
  const needs = new Map<string, { name: string; bytes: number; free: number }>();
  for (const [i, d] of destinations.entries()) {
    const root = await rootById(runtime, d.root);
    // The folder it was mounted at may be there without it, and would be taken for where the copy is.
    const volume = (await isAway(runtime, root)) ? null : await runtime.devices.volumeOf(root.path);
    if (!volume)
      throw new NotFound(`“${root.name}” is offline.`, { file: root.path, next: 'Connect the volume.' });
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
