import { and, eq, getTableColumns, inArray, isNotNull, or, sql } from 'drizzle-orm';
import { shownPath } from '../../core/platform/names';
import { type Brief, dateOf, NO_BRIEF } from '../../core/facts';
import { isMade, isMoving, isRecording, mayStand } from '../../core/intake';
import {
  type NeedFacts,
  needsProxy,
  pairReason,
  type PairView,
  type Part,
  type ProxyRules,
  type Recipe,
} from '../../core/proxies';
import type { ClipView } from '../../core/cards/shapes';
import { clipsOf, isCard } from './ofJob';
import { cards, clips, days, files } from './tables';
import { pairs } from '../proxies/tables';
import { OPEN_WORK } from '../../core/platform/shapes';
import { bulk } from '../platform/db/bulk';
import { work } from '../platform/work/tables';
import { shown } from '../facts/tables';
import { NotFound } from '../platform/errors';
import type { InJob, Listing } from './ports';
import { byClip, type FileRow } from './families';
import { grouped } from './statements';
import { requireJob } from '../jobs';
import { clipName, splitPath } from './clipName';

/** A clip as lists show it: what was worked out of its statements, not the statements. */
export const LISTED = {
  id: clips.id,
  card: clips.card,
  original: clips.original,
  kind: clips.kind,
  state: clips.state,
  fault: clips.fault,
  filmstrip: clips.filmstrip,
  notes: clips.notes,
  brief: shown.brief,
};
type ClipRow = Pick<typeof clips.$inferSelect, Exclude<keyof typeof LISTED, 'brief'>> & {
  brief: Brief | null;
};
type PairRow = typeof pairs.$inferSelect;
type CardRow = typeof cards.$inferSelect;

export interface Everything {
  clips: ClipRow[];
  families: Map<string, FileRow[]>;
  pairs: Map<string, PairRow>;
  cards: Map<string, CardRow>;
  dates: Map<number, string | null>;
  dayStart: number;
  rules: ProxyRules;
  /** Clips of which a proxy is under way. */
  making: ReadonlySet<string>;
  duplicates: Map<string, FileRow[]>;
}

/** What lists show of the job's clips, or of one card's: of one card, what is asked for grows with the card, not with the job. */
export async function everything(runtime: Listing, card?: string): Promise<Everything> {
  const clipRows = await bulk(
    runtime.database,
    LISTED,
    runtime.db
      .select(LISTED)
      .from(clips)
      .innerJoin(shown, eq(shown.clip, clips.id))
      .where(and(eq(clips.job, runtime.job), card === undefined ? undefined : eq(clips.card, card))),
  );
  const mine = clipsOf(runtime.db, runtime.job, card);
  const families = byClip(
    await bulk(
      runtime.database,
      getTableColumns(files),
      runtime.db.select().from(files).where(inArray(files.clip, mine)),
    ),
  );
  const job = await requireJob(runtime);
  const cardRows = await runtime.db
    .select()
    .from(cards)
    .where(card === undefined ? eq(cards.job, job.id) : isCard(job.id, card));
  return {
    clips: clipRows,
    families,
    dayStart: job.dayStart,
    rules: job.proxies,
    making: await makingOf(runtime),
    dates: new Map(
      (await runtime.db.select().from(days).where(eq(days.job, job.id))).map((d) => [d.number, d.date]),
    ),
    duplicates: await duplicatesOf(runtime, card),
    pairs: new Map(
      (
        await bulk(
          runtime.database,
          getTableColumns(pairs),
          runtime.db.select().from(pairs).where(inArray(pairs.clip, mine)),
        )
      ).map((p) => [p.file, p]),
    ),
    cards: new Map(cardRows.map((c) => [c.id, c])),
  };
}

/** Clips of which a proxy is under way. */
async function makingOf({ db, job }: Pick<InJob, 'db' | 'job'>): Promise<Set<string>> {
  const rows = await db
    .select({ clip: work.clip, wanted: work.wanted })
    .from(work)
    .where(and(eq(work.job, job), eq(work.kind, 'proxy'), inArray(work.state, [...OPEN_WORK])));
  return new Set(rows.flatMap((w) => (w.clip !== null && isProxy(w.wanted) ? [w.clip] : [])));
}

/** Whether a piece of work is to make a proxy, as the rules say or by a recipe of one, and neither another file nor a part. */
function isProxy(wanted: unknown): boolean {
  const { recipe = null, part = null } = (wanted ?? {}) as { recipe?: Recipe | null; part?: Part | null };
  return part === null && (recipe === null || recipe.purpose === 'proxy');
}

/** Originals whose contents are in the job more than once, by their fingerprint. */
async function duplicatesOf({ db, database, job }: Listing, card?: string): Promise<Map<string, FileRow[]>> {
  const original = and(eq(files.role, 'original'), isNotNull(files.sample));
  // Of one card its own fingerprints are looked for; of all, those that are there more than once.
  const wanted =
    card === undefined
      ? db
          .select({ sample: files.sample })
          .from(files)
          .where(original)
          .groupBy(files.sample)
          .having(sql`count(*) > 1`)
      : db
          .select({ sample: files.sample })
          .from(files)
          .where(and(original, inArray(files.clip, clipsOf(db, job, card))));
  const columns = getTableColumns(files);
  const rows = await bulk(
    database,
    columns,
    db
      .select(columns)
      .from(files)
      .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, job)))
      .where(and(original, inArray(files.sample, wanted))),
  );
  const alike = grouped(
    rows,
    (f) => f.sample!,
    (f) => f,
  );
  return new Map([...alike].filter(([, all]) => all.length > 1));
}

const PAIR_RANK = { proven: 0, unproven: 1, mismatched: 2, lost: 3 } as const;

/** What decides whether a clip needs a proxy. */
export const needFactsOf = (camera: string, brief: Brief): NeedFacts => ({
  camera,
  codec: brief.codec,
  allIntra: brief.allIntra ?? null,
  chroma: brief.chroma,
  bitDepth: brief.bitDepth,
  width: brief.width,
  height: brief.height,
  rate: brief.rate,
  bitRate: brief.bitRate ?? null,
});

/** What tells how pairs stand. */
type PairsKnown = Pick<Everything, 'pairs' | 'making' | 'rules'>;
type PairedClip = Pick<ClipRow, 'id' | 'kind' | 'state' | 'brief'>;

/** How a clip stands that has no proxy. */
function withoutProxy(all: PairsKnown, row: PairedClip, camera: string): PairView['state'] {
  if (all.making.has(row.id)) return 'waiting';
  // Sound and single pictures have none.
  if (!isMoving(row.kind)) return 'none';
  const brief = row.brief ?? NO_BRIEF;
  const known = row.state === 'read' && brief.rate !== null && brief.width !== null;
  const bare = { readable: true, hasProvenProxy: false, hasCameraProxy: false };
  return known && !needsProxy(all.rules.need, bare, needFactsOf(camera, brief)).needed ? 'none' : 'missing';
}

/**
 * The file that stands for a clip in the edit, with its pair: the one a person chose, then a proven one before an unproven one, a made one before
 * the camera's.
 */
export function standsInEdit<F extends Pick<FileRow, 'id' | 'role'>>(
  pairsKnown: ReadonlyMap<string, PairRow>,
  family: readonly F[],
): { file: F; pair: PairRow | undefined } | undefined {
  return family
    .map((file) => ({ file, pair: pairsKnown.get(file.id) }))
    .filter(({ file, pair }) => mayStand(file.role, pair?.stands === true))
    .sort(
      (a, b) =>
        Number(b.pair?.stands === true) - Number(a.pair?.stands === true) ||
        PAIR_RANK[a.pair?.state ?? 'unproven'] - PAIR_RANK[b.pair?.state ?? 'unproven'] ||
        (a.file.role === 'proxy' ? -1 : 1),
    )[0];
}

function pairOf(
  all: PairsKnown,
  row: PairedClip,
  camera: string,
  family: readonly Pick<FileRow, 'id' | 'role'>[],
): PairView {
  const best = standsInEdit(all.pairs, family);
  if (!best)
    return { state: withoutProxy(all, row, camera), checks: [], file: null, made: false, changes: [] };
  return {
    state: best.pair?.state ?? 'unproven',
    checks: best.pair?.checks ?? [],
    file: best.file.id,
    made: isMade(best.file.role),
    changes: best.pair?.changes ?? [],
  };
}

/** How the pairs of the job's clips stand: of very many clips no more is asked for than tells that. */
export async function pairStates(
  runtime: InJob,
): Promise<(clip: PairedClip, camera: string) => PairView['state']> {
  const { db, job } = runtime;
  const paired = await db
    .select({ id: files.id, role: files.role, clip: files.clip, pair: pairs })
    .from(files)
    .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, job)))
    .leftJoin(pairs, eq(pairs.file, files.id))
    .where(or(inArray(files.role, ['proxy', 'cameraProxy']), eq(pairs.stands, true)));
  const families = grouped(
    paired,
    (f) => f.clip,
    (f) => f,
  );
  const known: PairsKnown = {
    pairs: new Map(paired.flatMap((f) => (f.pair ? [[f.id, f.pair] as const] : []))),
    making: await makingOf(runtime),
    rules: (await requireJob(runtime)).proxies,
  };
  return (clip, camera) => pairOf(known, clip, camera, families.get(clip.id) ?? []).state;
}

export function clipView(all: Everything, row: ClipRow): ClipView {
  const family = all.families.get(row.id) ?? [];
  const original = family.find((f) => f.role === 'original');
  const card = all.cards.get(row.card)!;
  const brief = row.brief ?? NO_BRIEF;
  const pair = pairOf(all, row, card.camera, family);
  const problems: ClipView['problems'] = [];
  if (row.fault !== null) problems.push({ level: 'stop', text: row.fault });
  else if (row.state === 'read')
    problems.push(...[...brief.looks, ...row.notes].map((text) => ({ level: 'look' as const, text })));
  if (pair.state === 'lost')
    problems.push({ level: 'stop', text: `The pair is lost: ${pairReason(pair.checks)}.` });
  if (pair.state === 'mismatched')
    problems.push({ level: 'stop', text: `The proxy does not match. ${pairReason(pair.checks)}` });
  if (pair.state === 'unproven')
    problems.push({
      level: 'look',
      text: `The pair is not proven. ${pairReason(pair.checks) || 'It has not been checked.'}`,
    });
  const date = all.dates.get(card.day) ?? null;
  const recordedOn = brief.recordedAt && dateOf(brief.recordedAt, all.dayStart);
  if (date && recordedOn && recordedOn !== date)
    problems.push({
      level: 'look',
      text: `Recorded on ${recordedOn}, but ${row.card} is of day ${card.day}, ${date}.`,
    });
  const twin = original?.sample
    ? all.duplicates.get(original.sample)?.find((f) => f.clip !== row.id)
    : undefined;
  if (twin)
    problems.push({
      level: 'look',
      text: `The same recording stands in the job twice: also as ${splitPath(twin.path).stem}.`,
    });
  const { width, height, chroma, bitDepth, rate, frames } = brief;
  const picture =
    width && height
      ? `${width}×${height} · ${[chroma, bitDepth ? `${bitDepth} bit` : null].filter(Boolean).join(' · ')}`
      : null;
  return {
    id: row.id,
    card: row.card,
    camera: card.camera,
    day: card.day,
    name: clipName(original, row.original),
    original: shownPath(row.original),
    kind: row.kind,
    named:
      original !== undefined &&
      (original.path !== original.takenPath || original.root !== original.takenRoot),
    state: row.state,
    fault: row.fault,
    filmstrip: row.filmstrip,
    rate,
    frames,
    seconds: brief.seconds,
    start: brief.start,
    end: brief.end,
    recordedAt: brief.recordedAt,
    codec: brief.codec,
    picture,
    width,
    height,
    channels: brief.channels,
    bytes: family.filter((f) => isRecording(f.role)).reduce((n, f) => n + f.size, 0),
    files: family.length,
    pair,
    problems,
    playable: brief.playable,
  };
}

/** Clips in shooting order. */
export const inOrder = (a: ClipView, b: ClipView): number =>
  (a.recordedAt ?? '9') < (b.recordedAt ?? '9')
    ? -1
    : (a.recordedAt ?? '9') > (b.recordedAt ?? '9')
      ? 1
      : a.original.localeCompare(b.original, 'en', { numeric: true });

/** The clips of a card in shooting order; of the whole job where no card is named. */
export async function clipViews(runtime: Listing, card?: string): Promise<ClipView[]> {
  return viewsOf(await everything(runtime, card), card);
}

/** The views of what was loaded. Throws NotFound where the card is not in the job. */
export function viewsOf(all: Everything, card?: string): ClipView[] {
  if (card && !all.cards.has(card))
    throw new NotFound(`There is no card ${card} in this job.`, { next: 'Go back to the Wall.' });
  return all.clips.map((c) => clipView(all, c)).sort(inOrder);
}
