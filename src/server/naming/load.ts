import { and, asc, eq, isNotNull, ne, sql } from 'drizzle-orm';
import { type Brief, NO_BRIEF } from '../../core/facts';
import type { NamingData } from '../../core/naming';
import { KEYWORDS } from '../../core/naming/blocks/keyword';
import { fps } from '../../core/platform/timecode/rate';
import { join, plainName, shownPath } from '../../core/platform/names';
import { byClip, clipStem, splitPath } from '../cards';
import { cameras, cards, clips, days, files } from '../cards/tables';
import { keywordsOfClips } from '../choose';
import { cardFiles } from '../custody/tables';
import { allUpToDate, chosenWords } from '../facts';
import { shown } from '../facts/tables';
import { requireJob } from '../jobs';
import { clipsBeingCopied } from '../offload';
import { isMovable, listRoots, type Root } from '../places';
import { pairs } from '../proxies/tables';
import type { InJob, Ports } from './ports';
import { numbers, plans, steps } from './tables';

/** Everything the plans of a job are made of but what stands on the disk at their targets; of facts the given fields, and keywords where they are among them. */
export async function loadNaming(runtime: InJob, fields: readonly string[]): Promise<NamingData> {
  await allUpToDate(runtime);
  const job = await requireJob(runtime);
  const { db } = runtime;
  const facts = fields.filter((f) => f !== KEYWORDS);
  const [clipRows, cardRows, dayRows, cameraRows, fileRows, words, keywords, copying, moving] =
    await Promise.all([
      clipRowsOf(runtime),
      db.select().from(cards).where(eq(cards.job, job.id)),
      db.select().from(days).where(eq(days.job, job.id)),
      db.select().from(cameras).where(eq(cameras.job, job.id)),
      fileRowsOf(runtime),
      chosenWords(runtime, facts),
      facts.length < fields.length ? keywordsOfClips(runtime) : null,
      clipsBeingCopied(runtime),
      clipsInOpenPlans(runtime),
    ]);
  const cardOf = new Map(cardRows.map((c) => [c.id, c]));
  const dateOf = new Map(dayRows.map((d) => [d.number, d.date]));
  const modelOf = new Map(cameraRows.map((c) => [c.label, c.model]));
  const families = byClip(fileRows);
  const beside = asideByStem(cardRows);
  return {
    clips: clipRows.map((c) => {
      const card = cardOf.get(c.card)!;
      const family = families.get(c.id) ?? [];
      const original = family.find((f) => f.role === 'original');
      const at = splitPath(original?.place.path ?? c.original);
      return namingClip({
        id: c.id,
        job: job.code,
        kind: c.kind,
        original: c.original,
        card,
        date: dateOf.get(card.day) ?? null,
        model: modelOf.get(card.camera) ?? null,
        brief: c.brief,
        words: words.get(c.id) ?? {},
        keywords: keywords?.get(c.id) ?? [],
        held: heldBack(c, copying, moving),
        beside: original ? (beside.get(`${original.place.root}\0${join(at.folder, at.stem)}`) ?? []) : [],
        files: family.map(({ clip: _, ...file }) => file),
      });
    }),
    roots: await planRoots(runtime),
    shelf: 'shelf',
    given: await givenNumbers(runtime),
    notTaken: await notTaken(runtime, clipRows),
  };
}

/** A clip as the bench takes it, from what the database or a card says of it. */
export function namingClip(of: {
  id: string;
  job: string;
  kind: NamingData['clips'][number]['kind'];
  /** The camera's name of it. */
  original: string;
  card: { id: string; camera: string; day: number };
  date: string | null;
  model: string | null;
  brief: Brief;
  words: Record<string, string>;
  keywords?: NamingData['clips'][number]['keywords'];
  held: string[];
  beside: string[];
  files: NamingData['clips'][number]['files'];
}): NamingData['clips'][number] {
  const { id, job, kind, card, brief, held, beside, files: family } = of;
  const original = family.find((f) => f.role === 'original');
  return {
    id,
    job,
    kind,
    day: card.day,
    date: of.date,
    camera: card.camera,
    cameraName: of.model,
    card: card.id,
    rate: brief.rate,
    size: brief.width !== null && brief.height !== null ? [brief.width, brief.height] : null,
    original: plainName(of.original),
    recordedAt: brief.recordedAt,
    startSeconds:
      brief.startFrame !== null && brief.rate !== null ? brief.startFrame / fps(brief.rate) : null,
    facts: of.words,
    keywords: of.keywords ?? [],
    current: plainName(
      clipStem(original && { path: original.place.path, suffix: original.suffix }, of.original),
    ),
    extension: splitPath(original?.place.path ?? of.original).extension,
    held,
    beside,
    files: family,
  };
}

/** The name or model of a camera of the job; null where it is not known. */
export async function cameraModel({ db, job }: InJob, camera: string): Promise<string | null> {
  const [known] = await db
    .select({ model: cameras.model })
    .from(cameras)
    .where(and(eq(cameras.job, job), eq(cameras.label, camera)));
  return known?.model ?? null;
}

interface ClipRow {
  id: string;
  card: string;
  kind: NamingData['clips'][number]['kind'];
  original: string;
  state: string;
  brief: Brief;
}

/** In an order of its own: a plan is the same wherever it is made. */
async function clipRowsOf({ db, database, job }: InJob): Promise<ClipRow[]> {
  const rows = await database.texts(
    db
      .select({
        id: clips.id,
        card: clips.card,
        kind: clips.kind,
        original: clips.original,
        state: clips.state,
        brief: shown.brief,
      })
      .from(clips)
      .innerJoin(shown, eq(shown.clip, clips.id))
      .where(eq(clips.job, job))
      .orderBy(asc(clips.id))
      .getSQL(),
  );
  return rows.map(([id, card, kind, original, state, brief]) => ({
    id: id!,
    card: card!,
    kind: kind as ClipRow['kind'],
    original: original!,
    state: state!,
    brief: brief === null ? NO_BRIEF : (JSON.parse(brief!) as Brief),
  }));
}

type File = NamingData['clips'][number]['files'][number];

async function fileRowsOf({ db, database, job }: InJob): Promise<(File & { clip: string })[]> {
  const rows = await database.texts(
    db
      .select({
        id: files.id,
        clip: files.clip,
        role: files.role,
        root: files.root,
        path: files.path,
        suffix: files.suffix,
        size: files.size,
        modified: files.modified,
        folder: sql`${pairs.recipe} -> 'place' ->> 'folder'`,
      })
      .from(files)
      .innerJoin(clips, eq(clips.id, files.clip))
      .leftJoin(pairs, eq(pairs.file, files.id))
      .where(eq(clips.job, job))
      .orderBy(asc(files.id))
      .getSQL(),
  );
  return rows.map(([id, clip, role, root, path, suffix, size, modified, folder]) => ({
    id: id!,
    clip: clip!,
    role: role as File['role'],
    place: { root: root!, path: path! },
    suffix: suffix!,
    size: Number(size),
    modified: Number(modified),
    ...(typeof folder === 'string' ? { folder } : {}),
  }));
}

/** Why a clip is left out of every plan for now. */
function heldBack(
  clip: { id: string; state: string },
  copying: ReadonlySet<string>,
  moving: ReadonlySet<string>,
): string[] {
  return [
    ...(clip.state === 'unreadable' ? ['cannot be read: left where it is'] : []),
    ...(moving.has(clip.id)
      ? ['belongs to a naming that was interrupted and waits for its drive: left out for now']
      : []),
    ...(copying.has(clip.id)
      ? ['is still being copied: left out for now']
      : clip.state === 'waiting'
        ? ['is still being read: left out for now']
        : []),
  ];
}

/** Files that a card has aside, by root and stem. */
function asideByStem(cardRows: readonly (typeof cards.$inferSelect)[]): Map<string, string[]> {
  const out = new Map<string, string[]>();
  for (const card of cardRows)
    for (const { path } of card.aside) {
      const { folder, stem } = splitPath(join(card.folder, path));
      const key = `${card.root}\0${join(folder, stem)}`;
      out.set(key, [...(out.get(key) ?? []), shownPath(path.slice(path.lastIndexOf('/') + 1))]);
    }
  return out;
}

/** Roots as plans see them. A volume that is away is one of its own: nothing is renamed to or from it. */
async function planRoots(runtime: Pick<Ports, 'db' | 'devices'>): Promise<NamingData['roots']> {
  return Promise.all(
    (await listRoots(runtime)).map(async (r: Root) => ({
      id: r.id,
      name: r.name,
      movable: isMovable(r.kind),
      volume: (await runtime.devices.volumeOf(r.path))?.id ?? `of ${r.id}`,
    })),
  );
}

/** Clips of plans that wait for a drive: they are not named anew before those are finished. */
export async function clipsInOpenPlans(runtime: Pick<Ports, 'db'>): Promise<Set<string>> {
  const rows = await runtime.db
    .selectDistinct({ clip: steps.clip })
    .from(steps)
    .innerJoin(plans, eq(plans.id, steps.plan))
    .where(eq(plans.state, 'doing'));
  return new Set(rows.map((r) => r.clip));
}

/** Numbers that clips have from plans that count: a later plan's before an earlier one's. */
async function givenNumbers({ db, job }: InJob): Promise<NamingData['given']> {
  const rows = await db
    .select({
      clipId: numbers.clip,
      series: numbers.series,
      number: numbers.number,
      letter: numbers.letter,
    })
    .from(numbers)
    .innerJoin(plans, eq(plans.id, numbers.plan))
    .where(
      and(
        eq(plans.job, job),
        ne(plans.state, 'undone'),
        // A family that was left where it was, or went back, gave its number back.
        sql`(${numbers.plan}, ${numbers.clip}) not in (select s.plan, s.clip from ${steps} s where s.state in ('failed', 'reverted'))`,
      ),
    )
    .orderBy(plans.madeAt);
  return [...new Map(rows.map((r) => [`${r.clipId}\0${r.series}`, r])).values()];
}

/** Names of what was on the job's cards and is no clip of the job, without extensions. */
async function notTaken(
  { db, job }: InJob,
  clipRows: readonly { card: string; original: string }[],
): Promise<NamingData['notTaken']> {
  const taken = new Set(clipRows.map((c) => `${c.card}\0${c.original.toLowerCase()}`));
  const rows = await db
    .select({ card: cards.id, path: cardFiles.path })
    .from(cardFiles)
    .innerJoin(cards, eq(cards.physical, cardFiles.card))
    // A recording has a fingerprint, what is beside it has none.
    .where(and(eq(cards.job, job), isNotNull(cardFiles.sample)));
  const out = new Map<string, { card: string; name: string }>();
  for (const { card, path } of rows) {
    const name = splitPath(path).stem;
    const key = `${card}\0${name.toLowerCase()}`;
    if (!taken.has(key)) out.set(key, { card, name });
  }
  return [...out.values()];
}
