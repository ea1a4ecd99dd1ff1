import { and, asc, eq, getTableColumns, inArray, isNotNull, ne, sql } from 'drizzle-orm';
import { type Brief, NO_BRIEF } from '../../core/facts';
import type { NamingData } from '../../core/naming';
import { fps } from '../../core/platform/timecode/rate';
import { join, plainName, shownPath } from '../../core/platform/names';
import { byClip, clipsOf, clipStem, splitPath } from '../cards';
import { cameras, cards, clips, days, files } from '../cards/tables';
import { cardFiles } from '../custody/tables';
import { allUpToDate, chosenWords } from '../facts';
import { shown } from '../facts/tables';
import { requireJob } from '../jobs';
import { clipsBeingCopied } from '../offload';
import { isMovable, listRoots, type Root } from '../places';
import type { InJob, Ports } from './ports';
import { numbers, plans, steps } from './tables';

/** Everything the plans of a job are made of but what stands on the disk at their targets; of facts, the given fields. */
export async function loadNaming(runtime: InJob, fields: readonly string[]): Promise<NamingData> {
  await allUpToDate(runtime);
  const job = await requireJob(runtime);
  const { db } = runtime;
  const [clipRows, cardRows, dayRows, cameraRows, fileRows, words, copying, moving] = await Promise.all([
    db
      .select({ ...getTableColumns(clips), brief: shown.brief })
      .from(clips)
      .innerJoin(shown, eq(shown.clip, clips.id))
      .where(eq(clips.job, job.id))
      // In an order of its own: a plan is the same wherever it is made.
      .orderBy(asc(clips.id)),
    db.select().from(cards).where(eq(cards.job, job.id)),
    db.select().from(days).where(eq(days.job, job.id)),
    db.select().from(cameras).where(eq(cameras.job, job.id)),
    db
      .select()
      .from(files)
      .where(inArray(files.clip, clipsOf(db, job.id)))
      .orderBy(asc(files.id)),
    chosenWords(runtime, fields),
    clipsBeingCopied(runtime),
    clipsInOpenPlans(runtime),
  ]);
  const cardOf = new Map(cardRows.map((c) => [c.id, c]));
  const dateOf = new Map(dayRows.map((d) => [d.number, d.date]));
  const modelOf = new Map(cameraRows.map((c) => [c.label, c.model]));
  const families = byClip(fileRows);
  const beside = asideByStem(cardRows);
  return {
    clips: clipRows.map((c): NamingData['clips'][number] => {
      const card = cardOf.get(c.card)!;
      const brief: Brief = c.brief ?? NO_BRIEF;
      const family = families.get(c.id) ?? [];
      const original = family.find((f) => f.role === 'original');
      const at = splitPath(original?.path ?? c.original);
      return {
        id: c.id,
        job: job.code,
        kind: c.kind,
        day: card.day,
        date: dateOf.get(card.day) ?? null,
        camera: card.camera,
        cameraName: modelOf.get(card.camera) ?? null,
        card: card.id,
        rate: brief.rate,
        size: brief.width !== null && brief.height !== null ? [brief.width, brief.height] : null,
        original: plainName(c.original),
        recordedAt: brief.recordedAt,
        startSeconds:
          brief.startFrame !== null && brief.rate !== null ? brief.startFrame / fps(brief.rate) : null,
        facts: words.get(c.id) ?? {},
        current: plainName(clipStem(original, c.original)),
        extension: at.extension,
        held: heldBack(c, copying, moving),
        beside: original ? (beside.get(`${original.root}\0${join(at.folder, at.stem)}`) ?? []) : [],
        files: family.map((f) => ({
          id: f.id,
          role: f.role,
          place: { root: f.root, path: f.path },
          suffix: f.suffix,
          size: f.size,
          modified: f.modified,
        })),
      };
    }),
    roots: await planRoots(runtime),
    shelf: 'shelf',
    given: await givenNumbers(runtime),
    notTaken: await notTaken(runtime, clipRows),
  };
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
async function clipsInOpenPlans(runtime: Pick<Ports, 'db'>): Promise<Set<string>> {
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
