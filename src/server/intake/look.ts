import { and, asc, eq, inArray, isNull, max, min, ne, sql } from 'drizzle-orm';
import { sameTime } from '../../core/custody';
import { isOfSystem } from '../../core/intake';
import { counterGaps, counterRuns } from '../../core/intake/counter';
import type { AsideFile, Family, FamilyMember, RecognisedCard } from '../../core/intake/recognise';
import { type KnownJob, suggestCard } from '../../core/intake/suggest';
import { chooseFacts, text } from '../../core/facts';
import { join, isOdd, type ShownPath, shownPath } from '../../core/platform/names';
import type { CardChoice, FirstLook, Looked, LookedCard } from '../../core/intake/shapes';
import type { HashKind } from '../../core/hashLists';
import {
  isTheSystems,
  type KnownCard,
  offered,
  type Offered,
  offeredPlace,
  recogniseCard,
  samplesOf,
} from '../custody';
import { cameras, cards, clips, days, files } from '../cards/tables';
import { cardReadings } from '../custody/tables';
import { jobs } from '../jobs/tables';
import type { InJob } from './ports';
import { type Job, requireJob } from '../jobs';
import { cardOfClip, isCard, type LookedAt, recogniseFolder, recogniseNames } from '../cards';
import { readStatements } from '../reading';
import { joinPath } from '../platform/files/names';
import { lookLimits } from '../platform/media/probe';

/** What a few clips of a card say of its camera, and when they were recorded. */
interface Evidence {
  model: string | null;
  serial: string | null;
  date: string | null;
}

/** All that was offered with a card, and whether it is known, what has changed on it since, and by which hash its copies are known. */
interface WholeCard {
  whole: Offered;
  card: KnownCard | null;
  changed: { newFiles: number; gone: number } | null;
  hash: HashKind | null;
}

/** What is in a folder: the cards in it, each with a suggestion for its place. Stores nothing. */
export async function look(
  runtime: InJob,
  rootId: string,
  folder: string,
  singles: readonly string[] = [],
): Promise<Looked> {
  const job = await requireJob(runtime);
  const lookedAt = await recogniseFolder(runtime, rootId, folder, singles);
  const { root, at, found, faults } = lookedAt;
  const wholes = new Map<string, WholeCard>();
  const known = await knownOf(runtime);
  const looked: LookedCard[] = [];
  for (const card of found.cards) {
    const { whole, card: before, changed, hash } = await wholeOf(runtime, lookedAt, card.folder, wholes);
    const { evidence, runs, ...suggested } = await suggestFor(runtime, job, known, lookedAt, card);
    let { suggestion } = suggested;
    const [label] = before?.labels ?? [];
    const [named] = label ? await runtime.db.select().from(cards).where(isCard(job.id, label)) : [];
    // A card that is known keeps its id, camera and day.
    if (named && found.cards.length === 1) {
      const because = `this is ${named.id}, which was copied before`;
      suggestion = {
        ...suggestion,
        cardId: { value: named.id, because },
        camera: { value: named.camera, because },
        day: { value: named.day, because },
      };
    }
    const already = await alreadyIn(runtime, root.id, card, join(folder, card.folder));
    const here = await sameRecordings(runtime, card.families, joinPath(at, card.folder));
    const [same] = [...tally([...here.values()].map((h) => h.card))].sort((a, b) => b[1] - a[1]);
    if (already.length === 0) {
      // The next card of this look must not be offered the same id, nor a day that this one has just taken.
      known.cardIds.push(suggestion.cardId.value);
      known.counters.push({ card: suggestion.cardId.value, camera: suggestion.camera.value, runs });
      if (evidence.date && !known.days.some((d) => d.date === evidence.date))
        known.days.push({ number: suggestion.day.value, date: evidence.date });
      const serials = evidence.serial ? [evidence.serial] : [];
      if (!known.cameras.some((c) => c.label === suggestion.camera.value))
        known.cameras.push({ label: suggestion.camera.value, model: evidence.model, serials });
    }
    looked.push(
      lookedCard(
        card,
        { evidence, suggestion, already, here, same, faults },
        { whole, card: before, changed, hash },
      ),
    );
  }
  return { root: rootId, path: folder, cards: looked, aside: found.aside.map(asideView) };
}

/** What is in a folder by the names in it alone: for whoever wants to see its pictures while it is looked into. Stores nothing. */
export async function firstLook(
  runtime: InJob,
  root: string,
  folder: string,
  singles: readonly string[] = [],
): Promise<FirstLook> {
  const { cards } = await recogniseNames(runtime, root, folder, singles);
  return {
    root,
    path: folder,
    cards: cards.map((c) => ({
      folder: c.folder,
      shape: c.shape,
      clips: c.families.map((f) => clipView(f, null)),
    })),
  };
}

/** A card's place in the job, as it is suggested, and by what. */
async function suggestFor(
  runtime: InJob,
  job: Job,
  known: KnownJob,
  { root, at, folder }: Pick<LookedAt, 'root' | 'at' | 'folder'>,
  card: RecognisedCard,
) {
  const evidence = await evidenceOf(runtime, card, joinPath(at, card.folder), job);
  const runs = counterRuns(card.families.filter((f) => f.kind !== 'stills').map((f) => f.stem));
  const folders = join(root.name, folder, card.folder).split('/');
  return { evidence, runs, suggestion: suggestCard(known, { folders, runs, ...evidence }) };
}

/** A card's place in the job as it is suggested now, for whoever takes it in without asking. */
export async function suggestedPlace(
  runtime: InJob,
  lookedAt: LookedAt,
  card: RecognisedCard,
): Promise<CardChoice> {
  const { suggestion } = await suggestFor(
    runtime,
    await requireJob(runtime),
    await knownOf(runtime),
    lookedAt,
    card,
  );
  return {
    folder: card.folder,
    camera: suggestion.camera.value,
    cardId: suggestion.cardId.value,
    day: suggestion.day.value,
    date: suggestion.date.value,
  };
}

/** What the job has already: cameras, ids, days and the counters of its cards. */
async function knownOf(runtime: InJob): Promise<KnownJob> {
  const { db, job } = runtime;
  return {
    cameras: await db.select().from(cameras).where(eq(cameras.job, job)).orderBy(asc(cameras.label)),
    cardIds: (await db.select({ id: cards.id }).from(cards).where(eq(cards.job, job))).map((c) => c.id),
    days: (await db.select().from(days).where(eq(days.job, job))).flatMap((d) =>
      d.date ? [{ number: d.number, date: d.date }] : [],
    ),
    counters: await countersOf(runtime),
  };
}

/** A card as it is shown: what is on it, what is suggested for it, and what is known of it. */
function lookedCard(
  card: RecognisedCard,
  of: {
    evidence: Evidence;
    suggestion: LookedCard['suggestion'];
    already: string[];
    here: ReadonlyMap<string, { card: string; name: ShownPath }>;
    same: readonly [string, number] | undefined;
    faults: ReadonlyMap<string, string>;
  },
  { whole, card: before, changed, hash }: WholeCard,
): LookedCard {
  const { evidence, suggestion, already, here, same, faults } = of;
  return {
    folder: card.folder,
    shape: card.shape,
    proxySuffix: card.proxySuffix,
    doubts: card.doubts,
    gaps: counterGaps(card.families.flatMap((f) => numbersOf(f))),
    model: evidence.model,
    suggestion,
    already,
    same: same ? { card: same[0], clips: same[1], of: card.families.length } : null,
    names: troublesomeNames(whole.walked.entries.map((e) => e.path)),
    all: {
      files: whole.files.length,
      bytes: whole.files.reduce((n, e) => n + e.size, 0),
      folder: shownPath(whole.folder),
      wholeVolume: whole.wholeVolume,
      outside: whole.outside.map(shownPath),
    },
    known: before &&
      changed && {
        physical: before.card.id,
        labels: before.labels,
        elsewhere: before.elsewhere,
        label: before.card.label,
        ...changed,
        hash,
        lastSeen: before.card.lastSeen.toISOString(),
      },
    clips: card.families.map((f) => clipView(f, here.get(f.files[0]!.path) ?? null)),
    aside: [
      ...card.aside.map(asideView),
      ...card.families
        .flatMap((f) => f.files)
        .flatMap((m) => {
          const fault = faults.get(join(card.folder, m.path));
          return fault
            ? [
                {
                  path: shownPath(m.path),
                  size: m.size,
                  reason: `${fault}. It is taken in as it is, and marked.`,
                },
              ]
            : [];
        }),
    ],
  };
}

const clipView = (f: Family, here: LookedCard['clips'][number]['here']): LookedCard['clips'][number] => ({
  path: f.files[0]!.path,
  stem: shownPath(f.stem),
  kind: f.kind,
  missing: f.missing,
  here,
  bytes: f.files.reduce((n, m) => n + m.size, 0),
  files: f.files.map((m) => ({ path: shownPath(m.path), role: m.role, size: m.size })),
});

const asideView = (a: AsideFile) => ({ ...a, path: shownPath(a.path) });

/** All that was offered with a card, and whether it is known; worked out once for cards that are on one volume. */
async function wholeOf(runtime: InJob, looked: LookedAt, folder: string, done: Map<string, WholeCard>) {
  const { at } = await offeredPlace(runtime, looked.root, looked.folder, folder);
  const earlier = done.get(at);
  if (earlier) return earlier;
  const whole = await offered(runtime, looked, folder);
  const card = await recogniseCard(runtime, whole);
  const [reading] = card
    ? await runtime.db
        .select({ kind: cardReadings.kind })
        .from(cardReadings)
        .where(eq(cardReadings.card, card.card.id))
        .limit(1)
    : [];
  const found = {
    whole,
    card,
    changed: card && (await changedOn(runtime, at, card)),
    hash: reading?.kind ?? null,
  };
  done.set(at, found);
  return found;
}

/** How many files are new on a known card, or no longer on it, but for what computers keep there for themselves. */
async function changedOn(runtime: InJob, at: string, { relation, missing }: KnownCard) {
  const { types } = (await requireJob(runtime)).intake;
  const fresh: string[] = [];
  for (const { path } of relation.fresh) if (!(await isTheSystems(at, path, types))) fresh.push(path);
  return {
    newFiles: fresh.length,
    gone: missing.filter((path) => isOfSystem(path, types) === false).length,
  };
}

/** Each card's lowest and highest numbers: found by the database, which has the names of all clips. Names of one length sort by their number. */
async function countersOf(runtime: InJob): Promise<KnownJob['counters']> {
  const rows = await runtime.db
    .select({ card: cards.id, camera: cards.camera, first: min(clips.original), last: max(clips.original) })
    .from(clips)
    .innerJoin(cards, cardOfClip)
    .where(and(eq(clips.job, runtime.job), ne(clips.kind, 'stills')))
    .groupBy(
      cards.id,
      cards.camera,
      sql`regexp_replace(${clips.original}, '[0-9]+([^0-9]*)$', '#\\1')`,
      sql`length(${clips.original})`,
    );
  const byCard = new Map<string, { card: string; camera: string; names: string[] }>();
  for (const { card, camera, first, last } of rows) {
    const known = byCard.get(card) ?? { card, camera, names: [] };
    known.names.push(first!, last!);
    byCard.set(card, known);
  }
  return [...byCard.values()].map(({ card, camera, names }) => ({ card, camera, runs: counterRuns(names) }));
}

/** Names whose numbers count for gaps: each segment and still has its own, a row of stills says its gaps itself. */
const numbersOf = (f: Family): string[] =>
  f.kind === 'stills'
    ? []
    : f.files
        .filter((m) => m.role === 'original' || m.role === 'segment')
        .map((m) =>
          /^_\d$/.test(m.suffix) ? m.path.slice(m.path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '') : f.stem,
        );

const tally = (words: readonly string[]): Map<string, number> =>
  words.reduce((m, w) => m.set(w, (m.get(w) ?? 0) + 1), new Map<string, number>());

/** Names that differ only in case or Unicode form, are no UTF-8, or make a path that some systems cannot hold. */
function troublesomeNames(paths: readonly string[]): string[] {
  const said: string[] = [];
  const seen = new Map<string, string>();
  for (const p of paths) {
    const key = p.normalize('NFC').toLowerCase();
    const other = seen.get(key);
    if (other !== undefined)
      said.push(
        `${shownPath(p)} and ${shownPath(other)} differ only in case or Unicode form: a volume that ignores that can hold only one of them`,
      );
    else seen.set(key, p);
    if (isOdd(p))
      said.push(`${shownPath(p)} is not UTF-8: safe copies keep its bytes, on the shelf it gets a new name`);
    if (p.length >= 260)
      said.push(`${shownPath(p).slice(0, 40)}… is ${p.length} characters long: some systems stop at 260`);
  }
  return said;
}

/** Model and date from the first clip that tells. At most three are read, for this runs while the person waits. */
async function evidenceOf(runtime: InJob, card: RecognisedCard, at: string, job: Job): Promise<Evidence> {
  const told: Evidence = {
    model: null,
    serial: null,
    date: null,
  };
  // One that cannot be read has but the time of its file.
  let unread: string | null = null;
  for (const family of card.families.slice(0, 3)) {
    const onDisk = family.files.map((f) => ({
      role: f.role,
      file: joinPath(at, f.path),
      size: f.size,
      modified: f.modified,
    }));
    const { statements, fault } = await readStatements(
      { kind: family.kind, files: onDisk },
      { zoneMinutes: job.zoneMinutes, stillsRate: job.intake.stillsRate, limit: lookLimits.suggestion },
    );
    const facts = chooseFacts(statements);
    told.model ??= text(facts, 'model');
    told.serial ??= text(facts, 'serial');
    const recorded = facts.get('recordedAt')?.chosen.value;
    const date = recorded?.type === 'moment' ? recorded.moment.local.slice(0, 10) : null;
    if (fault === null) told.date ??= date;
    else unread ??= date;
    if (told.date) break;
  }
  return { ...told, date: told.date ?? unread };
}

/** Cards that these very files belong to, by their places, sizes and times; those of another job with its name. */
export const alreadyIn = async (...of: Parameters<typeof usedAt>): Promise<string[]> =>
  (await usedAt(...of)).same;

type Size = Pick<FamilyMember, 'size' | 'modified'>;
/** Whether a file is the one that was taken in at its place. */
export const isSameFile = (was: Size, now: Size): boolean =>
  was.size === now.size && sameTime(was.modified, now.modified);

/**
 * Cards whose footage was used in place where a card is: `same` where its files are still those, `other` where others are by now, as in a
 * reader, which holds one card after another.
 */
export async function usedAt(
  runtime: InJob,
  rootId: string,
  card: RecognisedCard,
  folder: string,
): Promise<{ same: string[]; other: string[] }> {
  const now = new Map(card.families.map(({ files: [f] }) => [join(folder, f!.path), f!]));
  const places = [...now.keys()];
  const ids = { same: new Set<string>(), other: new Set<string>() };
  for (let i = 0; i < places.length; i += 500) {
    const rows = await runtime.db
      .select({
        card: clips.card,
        path: files.path,
        size: files.size,
        modified: files.modified,
        job: jobs.id,
        name: jobs.name,
      })
      .from(files)
      .innerJoin(clips, eq(files.clip, clips.id))
      .innerJoin(jobs, eq(jobs.id, clips.job))
      .where(
        and(eq(files.root, rootId), isNull(files.onCard), inArray(files.path, places.slice(i, i + 500))),
      );
    for (const r of rows)
      ids[isSameFile(r, now.get(r.path)!) ? 'same' : 'other'].add(
        r.job === runtime.job ? r.card : `${r.card} of the job “${r.name}”`,
      );
  }
  return { same: [...ids.same].sort(), other: [...ids.other].sort() };
}

/** Which recordings are in the job already, told by their contents, by path of the original below the card. */
async function sameRecordings(
  runtime: InJob,
  families: readonly Family[],
  at: string,
): Promise<Map<string, { card: string; name: ShownPath }>> {
  const [any] = await runtime.db.select({ id: files.id }).from(files).limit(1);
  if (!any) return new Map();
  const samples = await samplesOf(families, at);
  const known = new Map<string, { card: string; name: ShownPath }>();
  const wanted = [...new Set(samples.values())];
  for (let i = 0; i < wanted.length; i += 500) {
    const rows = await runtime.db
      .select({ sample: files.sample, path: files.path, card: clips.card })
      .from(files)
      .innerJoin(clips, eq(files.clip, clips.id))
      .where(and(eq(clips.job, runtime.job), inArray(files.sample, wanted.slice(i, i + 500))));
    for (const r of rows)
      known.set(r.sample!, { card: r.card, name: shownPath(r.path.slice(r.path.lastIndexOf('/') + 1)) });
  }
  return new Map([...samples].flatMap(([p, s]) => (known.has(s) ? [[p, known.get(s)!] as const] : [])));
}
