import { and, asc, count as drizzleCount, countDistinct, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { ClipView } from '../../core/cards';
import { NO_BRIEF } from '../../core/facts';
import { isMade, isMoving, MADE_ROLES } from '../../core/intake';
import { needsProxy, type ProxyRules, recipeFor } from '../../core/proxies/need';
import { pairReason } from '../../core/proxies/prove';
import { LIGHT } from '../../core/proxies/recipe';
import { formatRate } from '../../core/platform/timecode/rate';
import type { Makeable, Measured, PairLine, ProxiesView } from '../../core/proxies/shapes';
import { OPEN_WORK, type WorkKind, type WorkSummary, type WorkView } from '../../core/platform/shapes';
import { stateOf } from '../analysis';
import { analyses } from '../analysis/tables';
import { clips, files } from '../cards/tables';
import { requireJob } from '../jobs';
import type { Made, WantedMade } from './makeProxies';
import { pairs } from './tables';
import { shown } from '../facts/tables';
import { work } from '../platform/work/tables';
import type { InJob } from './ports';
import { FOREIGN } from '../reading';
import { needFactsOf, clipsOf, clipName, clipViews, type FileRow, grouped, inOrder } from '../cards';

/** Pieces of each recipe from which later ones are foreseen. */
const LATEST = 40;

/** How the last pieces of work by each recipe went, of all jobs. */
async function measuredBy({ db }: InJob): Promise<Measured[]> {
  const rows = await db
    .select({ speed: work.speed, result: work.result })
    .from(work)
    .where(and(eq(work.kind, 'proxy'), eq(work.state, 'done')))
    .orderBy(desc(work.endedAt))
    .limit(1000);
  const by = new Map<string, { speeds: number[]; bytes: number; foreseen: number }>();
  for (const { speed, result } of rows) {
    const made = result as Made | null;
    // What was made before recipes were kept was made by the first one.
    const name = made?.recipe ?? LIGHT.name;
    const sum = by.get(name) ?? { speeds: [], bytes: 0, foreseen: 0 };
    if (sum.speeds.length >= LATEST || speed === null || speed <= 0) continue;
    sum.speeds.push(speed);
    sum.bytes += made?.bytes ?? 0;
    sum.foreseen += made?.foreseen ?? 0;
    by.set(name, sum);
  }
  return [...by].map(([recipe, { speeds, bytes, foreseen }]) => ({
    recipe,
    timesRealTime: speeds.length / speeds.reduce((n, s) => n + 1 / s, 0),
    size: foreseen > 0 ? bytes / foreseen : 1,
  }));
}

/** Work of a kind that is queued or running; with `ended`, also what was done, failed or cancelled. */
export async function workViews(runtime: InJob, kind: WorkKind, ended: boolean): Promise<WorkView[]> {
  const rows = await runtime.db
    .select({
      work,
      card: clips.card,
      original: clips.original,
      brief: shown.brief,
      path: files.path,
      suffix: files.suffix,
    })
    .from(work)
    .innerJoin(clips, eq(clips.id, work.clip))
    .innerJoin(shown, eq(shown.clip, clips.id))
    .leftJoin(files, and(eq(files.clip, work.clip), eq(files.role, 'original')))
    .where(
      and(
        eq(work.job, runtime.job),
        eq(work.kind, kind),
        ended ? undefined : inArray(work.state, [...OPEN_WORK]),
      ),
    )
    .orderBy(asc(work.queuedAt));
  return rows.map(({ work: w, card, original, brief, path, suffix }): WorkView => ({
    id: w.id,
    kind: w.kind,
    clip: w.subject,
    recipe: (w.wanted as WantedMade | null)?.recipe?.name ?? (w.result as Made | null)?.recipe ?? null,
    clipName: clipName({ path, suffix }, original),
    card,
    state: w.state,
    progress: w.progress,
    speed: w.speed,
    fault: w.fault,
    attempts: w.attempts,
    notes: w.notes,
    seconds: brief?.seconds ?? null,
    endedAt: w.endedAt?.toISOString() ?? null,
  }));
}

/** What is under way: how much of each kind, and the proxies one by one. */
export async function workSummary(runtime: InJob): Promise<WorkSummary> {
  const rows = await runtime.db
    .select({
      kind: work.kind,
      n: drizzleCount(),
    })
    .from(work)
    .where(and(eq(work.job, runtime.job), inArray(work.state, ['queued', 'running', 'paused'])))
    .groupBy(work.kind);
  const counts = new Map(rows.map((r) => [r.kind, r.n]));
  const waiting = await runtime.db
    .select({ why: work.fault, clips: countDistinct(work.clip) })
    .from(work)
    .where(and(eq(work.job, runtime.job), eq(work.state, 'waiting'), isNotNull(work.clip)))
    .groupBy(work.fault)
    .orderBy(desc(countDistinct(work.clip)), work.fault);
  return {
    waiting: waiting.map(({ why, clips: n }) => ({ why: why ?? '', clips: n })),
    read: counts.get('read') ?? 0,
    rest: counts.get('rest') ?? 0,
    filmstrip: counts.get('filmstrip') ?? 0,
    proxies: await workViews(runtime, 'proxy', false),
  };
}

/** Clips of which something can be made, with what the rules say of each. */
async function makeableOf(
  runtime: InJob,
  views: readonly ClipView[],
  rules: ProxyRules,
  asked: Asked,
  beside: Beside,
): Promise<{ makeable: Makeable[]; known: ProxiesView['known'] }> {
  const briefs = new Map(
    (
      await runtime.db
        .select({ clip: shown.clip, brief: shown.brief })
        .from(shown)
        .where(inArray(shown.clip, clipsOf(runtime.db, runtime.job)))
    ).map((r) => [r.clip, r.brief]),
  );
  const known = { cameras: new Set<string>(), rates: new Set<string>(), codecs: new Set<string>() };
  const makeable = views.flatMap((v): Makeable[] => {
    const brief = briefs.get(v.id) ?? NO_BRIEF;
    if (v.state !== 'read' || isForeign(v) || !v.rate || v.frames === null || v.width === null) return [];
    const facts = needFactsOf(v.camera, brief);
    known.cameras.add(v.camera);
    known.rates.add(formatRate(v.rate));
    if (brief.codec !== null) known.codecs.add(brief.codec);
    const need = needsProxy(
      rules.need,
      {
        readable: true,
        hasProvenProxy: v.pair.state === 'proven',
        hasCameraProxy: v.pair.file !== null && !v.pair.made,
      },
      facts,
    );
    const recipe = recipeFor(rules, facts).name;
    return [
      {
        ...{ clip: v.id, name: v.name, card: v.card, rate: v.rate, seconds: v.seconds ?? 0 },
        // One that does not match, or is lost, is mended by a person, not by another beside it.
        needed: need.needed && v.pair.state !== 'lost' && (!v.pair.made || v.pair.file === null),
        because: v.pair.state === 'lost' ? `its pair is lost: ${pairReason(v.pair.checks)}` : need.because,
        recipe,
        // What is being made of it is not offered a second time.
        has: [
          ...(beside.get(v.id) ?? []).flatMap(({ pair }) => pair?.recipe?.name ?? []),
          ...(asked.get(v.id) ?? []).map((name) => name ?? recipe),
        ],
        ...{ width: v.width, height: v.height ?? 0, frames: v.frames, channels: v.channels ?? 0 },
        bytes: v.bytes,
      },
    ];
  });
  const sorted = (set: Set<string>) => [...set].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));
  return {
    makeable,
    known: { cameras: sorted(known.cameras), rates: sorted(known.rates), codecs: sorted(known.codecs) },
  };
}

/**
 * Clips whose picture and sound nobody has looked at and listened to, nor will while a proxy is made: those that get none, whatever else was
 * made of them (a rewrap decodes nothing), and recordings of sound.
 */
async function unwatchedOf(
  runtime: InJob,
  views: readonly ClipView[],
  makeable: readonly Makeable[],
  asked: Asked,
): Promise<string[]> {
  const watched = await watchedOf(runtime);
  const sounds = views.filter(
    (v) => v.kind === 'sound' && v.state === 'read' && !isForeign(v) && v.seconds !== null,
  );
  return [...makeable.flatMap((m) => (m.needed ? [] : [m.clip])), ...sounds.map((v) => v.id)].filter(
    (id) => !watched.has(id) && !asked.has(id),
  );
}

/** Clips of which picture and sound were looked at, of the original as it is. */
async function watchedOf({ db, job }: InJob): Promise<ReadonlySet<string>> {
  const rows = await db
    .select({ clip: analyses.clip, of: analyses.of, size: files.size, modified: files.modified })
    .from(analyses)
    .innerJoin(files, and(eq(files.clip, analyses.clip), eq(files.role, 'original')))
    .where(inArray(analyses.clip, clipsOf(db, job)));
  return new Set(rows.filter((r) => r.of === stateOf(r)).map((r) => r.clip));
}

/** What is being made of clips, or queued, by the names of their recipes; null where it is what the rules say. */
type Asked = ReadonlyMap<string, readonly (string | null)[]>;

const isForeign = (v: ClipView): boolean => v.problems.some((p) => p.text === FOREIGN);

/** Files beside the originals, with their pairs, by clip. */
type Beside = ReadonlyMap<string, { file: FileRow; pair: typeof pairs.$inferSelect | null }[]>;

async function besideOf({ db, job }: InJob): Promise<Beside> {
  const rows = await db
    .select({ file: files, pair: pairs })
    .from(files)
    .leftJoin(pairs, eq(pairs.file, files.id))
    .where(and(inArray(files.clip, clipsOf(db, job)), inArray(files.role, ['cameraProxy', ...MADE_ROLES])))
    .orderBy(asc(files.path));
  const beside = new Map<string, typeof rows>();
  for (const row of rows) beside.set(row.file.clip, [...(beside.get(row.file.clip) ?? []), row]);
  return beside;
}

/** Every file that stands beside an original, those that count first; and a line for each clip that has none. */
function pairLines(
  views: readonly ClipView[],
  beside: Beside,
  light: ReadonlyMap<string, string>,
): PairLine[] {
  return views.flatMap((v): PairLine[] => {
    const of = { clip: v.id, name: v.name, card: v.card };
    const lines = (beside.get(v.id) ?? []).map(({ file, pair }): PairLine => ({
      ...of,
      file: file.id,
      what:
        file.role === 'cameraProxy'
          ? 'made by the camera'
          : file.takenPath !== null
            ? 'adopted file'
            : `${file.role}${pair?.recipe ? ` by “${pair.recipe.name}”` : ' made here'}`,
      first: v.pair.file === file.id,
      stands: pair?.stands ?? false,
      made: isMade(file.role) && file.takenPath === null,
      adopted: isMade(file.role) && file.takenPath !== null,
      bytes: file.size,
      state: pair?.state ?? 'unproven',
      changes: pair?.changes ?? [],
      reason: pairReason(pair?.checks ?? []),
      checks: pair?.checks ?? [],
      checkedAt: pair?.checkedAt.toISOString() ?? null,
    }));
    if (v.pair.file !== null) return lines.sort((a, b) => Number(b.first) - Number(a.first));
    const none: PairLine = {
      ...of,
      ...{ file: null, what: '', first: true, stands: false, made: false, adopted: false, bytes: 0 },
      ...{ state: v.pair.state, changes: [], checks: [], checkedAt: null },
      reason:
        v.pair.state === 'waiting'
          ? 'one is in the queue'
          : light.has(v.id)
            ? `none needed: ${light.get(v.id)}`
            : whyNone(v),
    };
    return [none, ...lines];
  });
}

/** Why a clip has no proxy, where that is not only that none was made yet. */
function whyNone(v: ClipView): string {
  if (v.state === 'unreadable') return 'the original cannot be read';
  if (v.state !== 'read' || !isMoving(v.kind)) return '';
  if (isForeign(v)) return 'none can be made: this machine has no decoder for it';
  return !v.rate || v.frames === null ? 'none can be made: its rate or length is not known here' : '';
}

export async function proxiesView(runtime: InJob): Promise<ProxiesView> {
  const views = (await clipViews(runtime)).sort(
    (a, b) => a.card.localeCompare(b.card, 'en', { numeric: true }) || inOrder(a, b),
  );
  const { proxies: rules } = await requireJob(runtime);
  const made = await workViews(runtime, 'proxy', true);
  const asked: Asked = grouped(
    made.filter((w) => OPEN_WORK.some((s) => s === w.state)),
    (w) => w.clip,
    (w) => w.recipe,
  );
  const beside = await besideOf(runtime);
  const { makeable, known } = await makeableOf(runtime, views, rules, asked, beside);
  return {
    rules,
    clips: makeable,
    unwatched: await unwatchedOf(runtime, views, makeable, asked),
    measured: await measuredBy(runtime),
    pairs: pairLines(
      views,
      beside,
      new Map(makeable.filter((m) => !m.needed).map((m) => [m.clip, m.because])),
    ),
    work: made,
    known,
  };
}
