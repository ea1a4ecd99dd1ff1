import path from 'node:path';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { CardChoice, Family, FamilyMember, RecognisedCard } from '../../core/intake';
import { typeOf } from '../../core/intake';
import { folderOf, join, shownPath } from '../../core/platform/names';
import { tidyName } from '../../core/choose';
import { plural } from '../../core/platform/words';
import { isLeftOut, type Seen, Stillness, type WatchFind, type WatchOptions } from '../../core/watch';
import { type LookedAt, recogniseFolder, sampledAs, standElsewhere } from '../cards';
import { cards, clips, files } from '../cards/tables';
import { putInBins } from '../choose';
import { samplesOf } from '../custody';
import { addMembers, scanClips, storeCard, suggestedPlace } from '../intake';
import { type Job, requireJob } from '../jobs';
import { jobs } from '../jobs/tables';
import { writeLog } from '../logbook';
import { wantNext } from '../next';
import { isStanding, rootById } from '../places';
import { NotFound } from '../platform/errors';
import { sampleOf } from '../platform/files/hash';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { isSameName } from '../platform/files/plainFile';
import { openForWriting } from '../platform/files/writers';
import { Listing } from './listing';
import type { InJob } from './ports';
import { type watches, watchFinds } from './tables';

type Watch = typeof watches.$inferSelect;

/** Milliseconds after which a file that looks cut short is taken as it is: nothing more comes. */
const GIVEN_UP = 30_000;

/** What is known of a watched folder between two passes. */
export class Eyes {
  readonly still: Stillness;
  /** Files that were judged and are not taken, as they were then. */
  readonly passed = new Map<string, Seen>();
  /** Of those, what is the same recording as another: judged anew once any recording is gone or another than it was. */
  readonly twins = new Set<string>();
  /** Ids of files that are known to be gone. */
  readonly gone = new Set<string>();
  /** Files that look cut short, and since when. */
  readonly cut = new Map<string, number>();
  here = true;
  moving = 0;
  looked: Date | null = null;
  fault: string | null = null;
  readonly listing = new Listing();
  /** Files that are known, and the count of changes at which they were asked for. */
  known: { files: Map<string, Known>; revision: number } | null = null;
  /** The rules by which files were judged, as text. */
  rules = '';
  /** Folders that are listed again with the next look, whatever is told of them: something in them is not settled. */
  unsettled: string[] = [];

  constructor(
    readonly giveUp = GIVEN_UP,
    still?: number,
  ) {
    this.still = new Stillness(still);
  }

  /** Folders below it, as they were last, for whoever listens to them. */
  folders(): string[] {
    return this.listing.folders().filter((f) => !isOwn(f));
  }

  /** A file as it was seen last; undefined where there is none. */
  file(at: string): Seen | undefined {
    const entry = isOwn(at) ? undefined : this.listing.at(at);
    return entry?.kind === 'file' ? entry : undefined;
  }
}

/** Whether something is in a folder of Sort Shelf's own. */
const isOwn = (at: string): boolean => at.split('/').includes(OWN_FOLDER);

interface Known {
  id: string;
  clip: string;
  card: string;
  job: string;
  jobName: string;
  role: string;
  suffix: string;
  path: string;
  size: number;
  modified: number;
  made: boolean;
}

/** Whether a file was judged and is not taken, as it is now. */
const isPassed = ({ passed }: Eyes, f: Seen): boolean => {
  const before = passed.get(f.path);
  return before?.size === f.size && before.modified === f.modified;
};

/** Files of any job in a folder of a root, by their path below that folder. */
async function knownBelow({ db }: InJob, { root, path: folder }: Watch): Promise<Map<string, Known>> {
  const prefix = folder === '' ? '' : `${folder}/`;
  const rows = await db
    .select({
      id: files.id,
      clip: files.clip,
      card: clips.card,
      job: clips.job,
      jobName: jobs.name,
      role: files.role,
      suffix: files.suffix,
      path: files.path,
      size: files.size,
      modified: files.modified,
      made: sql<boolean>`${files.takenPath} is null`,
    })
    .from(files)
    .innerJoin(clips, eq(clips.id, files.clip))
    .innerJoin(jobs, eq(jobs.id, clips.job))
    .where(and(eq(files.root, root), sql`starts_with(${files.path}, ${prefix})`));
  return new Map(rows.map((r) => [r.path.slice(prefix.length), { ...r, path: r.path.slice(prefix.length) }]));
}

/** Says what was found: kept until it is read, once each. */
async function tell(runtime: InJob, watch: string, kind: WatchFind['kind'], text: string): Promise<void> {
  const same = and(
    eq(watchFinds.watch, watch),
    eq(watchFinds.kind, kind),
    eq(watchFinds.text, text),
    eq(watchFinds.read, false),
  );
  if ((await runtime.db.$count(watchFinds, same)) > 0) return;
  await runtime.db
    .insert(watchFinds)
    .values({ id: randomUUID(), watch, at: new Date(), kind, text, read: false });
  runtime.events.changed('watches');
}

/** A folder as one pass works on it. */
interface Pass {
  runtime: InJob;
  watch: Watch;
  options: WatchOptions;
  eyes: Eyes;
  now: number;
  at: string;
  known: Map<string, Known>;
  /** What counts as footage by its name. */
  types: Job['intake']['types'];
}

/**
 * Looks at a watched folder once: what is new and whole is taken in, what was moved is followed, what is gone or another than it was is
 * said. Nothing in the folder is touched. `now` is of a clock that only goes forward, in milliseconds. `asked` where a person asked for it;
 * `changed` are the folders in which something is known to have changed, null where that is not known.
 * Returns in how many milliseconds something in it may be whole; null where nothing moves.
 */
export async function lookOnce(
  runtime: InJob,
  watch: Watch,
  eyes: Eyes,
  now: number,
  asked = false,
  changed: ReadonlySet<string> | null = null,
): Promise<number | null> {
  // What was listed while it was away says nothing of it.
  const part = eyes.here ? changed : null;
  const listed = await listAgain(runtime, watch, eyes, part);
  eyes.here = listed !== null;
  if (!listed) {
    eyes.moving = 0;
    return null;
  }
  const { at, touched } = listed;
  const { options } = watch;
  const before = eyes.known;
  const known = await knownNow(runtime, watch, eyes);
  const { types, leaveOut, shapes, folders } = (await requireJob(runtime)).intake;
  const rules = JSON.stringify([types, leaveOut, shapes, folders]);
  const isAsBefore = known === before?.files && rules === eyes.rules;
  // By other rules what was no footage may be some; a recording that the job has is still no other.
  if (rules !== eyes.rules) for (const p of eyes.passed.keys()) if (!eyes.twins.has(p)) eyes.passed.delete(p);
  eyes.rules = rules;
  // Where the job is as it was, only what was listed again can say anything new.
  const only = part !== null && isAsBefore ? touched : null;
  const files = [...(only ?? eyes.listing.folders())]
    .filter((f) => !isOwn(f))
    .flatMap((f) => eyes.listing.in(f).filter((e) => e.kind === 'file'));
  const pass: Pass = { runtime, watch, options, eyes, now, at, types, known };
  // What is no footage may belong to a clip that is in the job: it is looked at once.
  const isCandidate = (f: Seen) =>
    !isPassed(eyes, f) &&
    !known.has(f.path) &&
    !path.posix.basename(f.path).startsWith('.') &&
    !isLeftOut(f.path, options.leaveOut);
  eyes.still.look(now, files, only);
  let fresh = files.filter(isCandidate);
  if (fresh.some((f) => eyes.still.isWhole(f.path, now))) {
    eyes.still.touch(
      now,
      [...openForWriting(at)].map((f) => f.slice(at.length + 1)),
    );
    fresh = fresh.filter((f) => eyes.still.isWhole(f.path, now));
    if (fresh.length > 0 && (options.byItself || asked)) {
      await runtime.exclusively(() => takeFresh(pass, new Set(fresh.map((f) => f.path))));
      for (const f of fresh) if (typeOf(f.path, types) === null) eyes.passed.set(f.path, f);
    }
  }
  const judgeAnew = await tellChanges(pass, only);
  const moving = eyes.still.movingFiles(now);
  const waiting = fresh.filter((f) => !isPassed(eyes, f)).map((f) => f.path);
  const open = [...moving, ...eyes.cut.keys(), ...waiting];
  if (judgeAnew) {
    for (const twin of eyes.twins) eyes.passed.delete(twin);
    open.push(...eyes.twins);
    eyes.twins.clear();
  }
  eyes.unsettled = [...new Set(open.map(folderOf))];
  eyes.moving = moving.length;
  eyes.looked = new Date();
  const wait = eyes.still.nextWhole(now);
  return wait ?? (eyes.cut.size > 0 || judgeAnew ? Infinity : null);
}

/** Lists a watched folder, or parts of it, again; null where it is away: a drive that is is no error, and what is on it is not gone. */
async function listAgain(runtime: InJob, watch: Watch, eyes: Eyes, part: ReadonlySet<string> | null) {
  const root = await rootById(runtime, watch.root);
  try {
    const at = await resolveIn(root, watch.path);
    const touched = await eyes.listing.look(at, part && new Set([...part, ...eyes.unsettled]));
    // Where its volume was pulled meanwhile, what was listed last is the empty folder it was mounted at.
    return (await isStanding(runtime, root)) ? { at, touched } : null;
  } catch (e) {
    if (e instanceof NotFound || (e as { code?: string }).code === 'ENOENT') return null;
    throw e;
  }
}

/** Files that are known in a folder; asked for again only where something changed since. */
async function knownNow(runtime: InJob, watch: Watch, eyes: Eyes): Promise<Map<string, Known>> {
  const revision = runtime.events.revisionOf(['cards', 'clips']);
  if (eyes.known?.revision !== revision) eyes.known = { files: await knownBelow(runtime, watch), revision };
  return eyes.known.files;
}

/** Shapes whose files stand for themselves; a camera's card counts as a whole. */
const LOOSE = ['plain', 'sound-folder', 'numbered-stills'];

async function takeFresh(pass: Pass, fresh: ReadonlySet<string>): Promise<void> {
  const { runtime, watch, options, eyes, now } = pass;
  // What was stored meanwhile, by another pass or a person, is known.
  pass.known = await knownBelow(runtime, watch);
  const looked = await recogniseFolder(runtime, watch.root, watch.path, [], {
    walked: eyes.listing.walked(),
    fresh,
  });
  for (const card of looked.found.cards) {
    const below = (p: string) => join(card.folder, p);
    await addLater(pass, card, fresh);
    const isNew = (f: Family) => {
      const original = below(f.files[0]!.path);
      return fresh.has(original) && !pass.known.has(original) && !isLeftOut(original, options.leaveOut);
    };
    const loose = LOOSE.includes(card.shape.id);
    if (!loose && !eyes.still.isWholeBelow(card.folder, now)) continue;
    const ready = card.families.filter(
      (f) =>
        isNew(f) &&
        (f.kind === 'stills'
          ? eyes.still.isWholeBelow(folderOf(below(f.files[0]!.path)), now)
          : f.files.every((m) => eyes.still.isWhole(below(m.path), now))) &&
        isComplete(pass, looked, below(f.files[0]!.path)),
    );
    if (ready.length > 0) await takeFamilies(pass, looked, card, ready);
  }
  // What no card has is no footage, whatever its name says; only where it says so somebody has to know.
  for (const { path: p, reason } of looked.found.aside) {
    const seen = eyes.file(p);
    if (fresh.has(p) && seen) {
      eyes.passed.set(p, seen);
      if (typeOf(p, pass.types) !== null)
        await tell(runtime, watch.id, 'wrong', `${shownPath(p)} is left out: ${reason}`);
    }
  }
}

/** Whether a container is complete, or will not become so any more. */
function isComplete({ eyes, now }: Pass, looked: LookedAt, original: string): boolean {
  if (!looked.faults.has(original)) {
    eyes.cut.delete(original);
    return true;
  }
  const since = eyes.cut.get(original) ?? now;
  eyes.cut.set(original, since);
  if (now - since < eyes.giveUp) return false;
  eyes.cut.delete(original);
  return true;
}

/** Files that came later to clips that are in the job: they are read again with them. */
async function addLater(pass: Pass, card: RecognisedCard, fresh: ReadonlySet<string>): Promise<void> {
  const { runtime, watch, eyes, now, known } = pass;
  const again: string[] = [];
  for (const family of card.families) {
    const of = (m: FamilyMember) => join(card.folder, m.path);
    const original = known.get(of(family.files[0]!));
    if (original?.job !== runtime.job) continue;
    const late = family.files.filter((m) => !known.has(of(m)) && eyes.file(of(m)));
    if (late.length === 0 || !late.every((m) => eyes.still.isWhole(of(m), now))) continue;
    if (!late.some((m) => fresh.has(of(m)))) continue;
    await runtime.db.transaction((tx) =>
      addMembers(tx, original.clip, late, { root: watch.root, folder: join(watch.path, card.folder) }),
    );
    again.push(original.clip);
    await tell(
      runtime,
      watch.id,
      'changed',
      `${plural(late.length, 'further file')} of ${shownPath(of(family.files[0]!))}`,
    );
  }
  if (again.length > 0) {
    await runtime.queue.add('read', again);
    runtime.events.changed('cards', 'clips');
  }
}

/** A recording of the job: where it is, and where it was taken in. */
interface Twin {
  id: string;
  clip: string;
  root: string;
  path: string;
  takenRoot: string | null;
  takenPath: string | null;
  onCard: string | null;
  card: string;
}

/** Recordings of the job by their contents. */
async function bySample(runtime: InJob, samples: readonly string[]) {
  const out = new Map<string, Twin>();
  for (let i = 0; i < samples.length; i += 500)
    for (const r of await runtime.db
      .select({
        sample: files.sample,
        id: files.id,
        clip: files.clip,
        root: files.root,
        path: files.path,
        takenRoot: files.takenRoot,
        takenPath: files.takenPath,
        onCard: files.onCard,
        card: clips.card,
      })
      .from(files)
      .innerJoin(clips, eq(clips.id, files.clip))
      .where(and(eq(clips.job, runtime.job), inArray(files.sample, samples.slice(i, i + 500)))))
      out.set(r.sample!, r);
  return out;
}

/** Whether a file of the job is away from where it is known to be, though its place is here. One on a card is where its card is. */
async function isAway(
  runtime: InJob,
  { root, path: p, onCard }: { root: string; path: string; onCard: string | null },
): Promise<boolean> {
  if (onCard !== null) return false;
  const place = await rootById(runtime, root);
  try {
    await lstat(await resolveIn(place, p));
    return false;
  } catch (e) {
    // A place that is not here says nothing of what is in it.
    return (e as { code?: string }).code === 'ENOENT' && (await isStanding(runtime, place));
  }
}

/**
 * Whether a file is the one that a clip is known by, in other case or another form of its letters: on a volume that takes both for one, it
 * is still there under the name it had.
 */
function isRespelled({ watch, eyes }: Pass, known: Twin, now: string): boolean {
  const below = watch.path === '' ? '' : `${watch.path}/`;
  if (known.root !== watch.root || !known.path.startsWith(below)) return false;
  const before = known.path.slice(below.length);
  return isSameName(before, now) && eyes.file(before) === undefined;
}

/** Whether a file is not where the job has it, in the watched folder. */
async function isGone(runtime: InJob, watch: Watch, id: string): Promise<boolean> {
  const [row] = await runtime.db
    .select({ root: files.root, path: files.path, onCard: files.onCard })
    .from(files)
    .where(eq(files.id, id));
  const below = watch.path === '' ? '' : `${watch.path}/`;
  return (
    row !== undefined && row.root === watch.root && row.path.startsWith(below) && (await isAway(runtime, row))
  );
}

async function takeFamilies(
  pass: Pass,
  looked: LookedAt,
  card: RecognisedCard,
  ready: readonly Family[],
): Promise<void> {
  const { runtime, watch, eyes } = pass;
  const below = (p: string) => join(card.folder, p);
  const samples = await samplesOf(ready, joinPath(looked.at, card.folder));
  const there = await bySample(runtime, [...new Set(samples.values())]);
  const taken: Family[] = [];
  const mine = new Set<string>();
  for (const family of ready) {
    const original = family.files[0]!;
    const sample = samples.get(original.path);
    const same = sample === undefined ? undefined : there.get(sample);
    if (same && (isRespelled(pass, same, below(original.path)) || (await isAway(runtime, same)))) {
      await follow(pass, card, family, same.clip);
      there.delete(sample!);
      continue;
    }
    if (same ?? (sample !== undefined && mine.has(sample))) {
      for (const f of family.files) {
        const seen = eyes.file(below(f.path));
        if (!seen) continue;
        eyes.passed.set(seen.path, seen);
        eyes.twins.add(seen.path);
      }
      // The very file that the clip was taken in from, which was copied to its place since, is no news.
      if (same?.takenRoot === watch.root && same.takenPath === join(watch.path, below(original.path)))
        continue;
      await tell(
        runtime,
        watch.id,
        'twice',
        `${shownPath(below(original.path))} is in the job already${same ? `: ${shownPath(path.posix.basename(same.path))} of ${same.card}` : ''}`,
      );
      continue;
    }
    if (sample !== undefined) mine.add(sample);
    taken.push(family);
  }
  if (taken.length > 0) await store(pass, looked, { ...card, families: taken }, samples);
}

/** A clip whose files were moved or renamed outside: it is used from where they are now. */
async function follow(pass: Pass, card: RecognisedCard, family: Family, clip: string): Promise<void> {
  const { runtime, watch } = pass;
  const rows = await runtime.db.select().from(files).where(eq(files.clip, clip));
  const moved = family.files.flatMap((m) => {
    const row = rows.find((r) => r.role === m.role && r.suffix === m.suffix && r.size === m.size);
    return row ? [{ id: row.id, root: watch.root, path: join(watch.path, card.folder, m.path) }] : [];
  });
  await runtime.db.transaction((tx) => standElsewhere(tx, moved));
  for (const m of moved) pass.eyes.gone.delete(m.id);
  const now = join(card.folder, family.files[0]!.path);
  await tell(
    runtime,
    watch.id,
    'moved',
    `${shownPath(family.stem)} was moved outside: it is ${shownPath(now)} now`,
  );
  runtime.events.changed('cards', 'clips');
}

/** The card in the job that clips go into: the one that is told, the one its folder is, or as it is suggested. */
async function cardFor(
  { runtime, watch, options }: Pass,
  looked: LookedAt,
  card: RecognisedCard,
  folder: string,
): Promise<CardChoice> {
  const told = options.into;
  const [own] = await runtime.db
    .select()
    .from(cards)
    .where(
      and(
        eq(cards.job, runtime.job),
        told ? eq(cards.id, told.cardId) : and(eq(cards.root, watch.root), eq(cards.folder, folder)),
      ),
    );
  if (own) return { folder: card.folder, camera: own.camera, cardId: own.id, day: own.day, date: null };
  return told ? { folder: card.folder, ...told, date: null } : suggestedPlace(runtime, looked, card);
}

/** A card as if what is around its folder were the card. */
const belowOf = (card: RecognisedCard, folder: string): RecognisedCard => ({
  ...card,
  families: card.families.map((f) => ({
    ...f,
    files: f.files.map((m) => ({ ...m, path: join(folder, m.path) })),
  })),
  aside: card.aside.map((a) => ({ ...a, path: join(folder, a.path) })),
});

/** Stores clips with their card and bins, all at once. */
async function store(
  pass: Pass,
  looked: LookedAt,
  card: RecognisedCard,
  samples: ReadonlyMap<string, string>,
): Promise<void> {
  const { runtime, watch, options } = pass;
  const folder = join(watch.path, card.folder);
  const choice = await cardFor(pass, looked, card, folder);
  const top = tidyName(path.posix.basename(watch.path) || looked.root.name) ?? 'Watched';
  const binOf = (f: Family): string[] => {
    const dir = LOOSE.includes(card.shape.id)
      ? path.posix.dirname(join(card.folder, f.files[0]!.path))
      : card.folder;
    const names = dir === '.' || dir === '' ? [] : dir.split('/');
    return [top, ...names.map((n) => tidyName(shownPath(n)) ?? '–')];
  };
  const ids = await runtime.db.transaction(async (tx) => {
    const stored = options.into
      ? await storeCard(tx, runtime.job, choice, belowOf(card, card.folder), {
          root: watch.root,
          folder: watch.path,
          samples: new Map([...samples].map(([p, sample]) => [join(card.folder, p), sample])),
        })
      : await storeCard(tx, runtime.job, choice, card, { root: watch.root, folder, samples });
    await wantNext(tx, runtime.job, stored, options.next);
    if (options.bins)
      await putInBins(
        tx,
        runtime.job,
        card.families.map((f, i) => ({ path: binOf(f), clip: stored[i]! })),
      );
    return stored;
  });
  await runtime.queue.add('read', ids);
  const names = card.families.slice(0, 3).map((f) => shownPath(f.stem));
  const text = `${plural(ids.length, 'clip')} taken in as ${choice.cardId}: ${names.join(', ')}${ids.length > 3 ? ' …' : ''}`;
  await writeLog(
    runtime,
    'takeIn',
    `From the watched folder ${shownPath(folder) || looked.root.name}: ${text}`,
  );
  await tell(runtime, watch.id, 'taken', text);
  runtime.events.changed('cards', 'clips', 'job', 'log', 'choose', 'next');
}

/**
 * Says what is gone, back, or another than it was, in all folders or in `only` these. Returns whether a recording is no longer where or
 * what it was.
 */
async function tellChanges(
  { runtime, watch, eyes, now, at, known }: Pass,
  only: ReadonlySet<string> | null,
): Promise<boolean> {
  const again = new Set<string>();
  const others: Known[] = [];
  let went = false;
  for (const f of known.values()) {
    if (f.job !== runtime.job || f.made || (only && !only.has(folderOf(f.path)))) continue;
    const seen = eyes.file(f.path);
    if (!seen) {
      if (f.role !== 'original' || eyes.gone.has(f.id)) continue;
      // One that was followed, or named, meanwhile is not gone; a plan that is being applied is waited for.
      if (!(await runtime.exclusively(() => isGone(runtime, watch, f.id)))) continue;
      eyes.gone.add(f.id);
      went = true;
      await tell(runtime, watch.id, 'gone', `${shownPath(f.path)} of ${f.card} is gone from the disk`);
    } else {
      if (eyes.gone.delete(f.id))
        await tell(runtime, watch.id, 'back', `${shownPath(f.path)} of ${f.card} is back`);
      const other = seen.size !== f.size || Math.round(seen.modified) !== Math.round(f.modified);
      if (!other || !eyes.still.isWhole(f.path, now)) continue;
      again.add(f.card);
      if (f.role === 'original') others.push(f);
    }
  }
  for (const card of again) {
    const { again: changed } = await scanClips(runtime, card);
    if (changed > 0)
      await tell(
        runtime,
        watch.id,
        'changed',
        `${plural(changed, 'clip')} of ${card} changed on disk: read again`,
      );
  }
  // What it is now tells it from others from now on.
  for (const f of others) {
    const sample = await sampleOf(joinPath(at, f.path), eyes.file(f.path)!.size).catch(() => null);
    if (sample !== null) await sampledAs(runtime.db, f.id, sample);
  }
  return went || others.length > 0;
}
