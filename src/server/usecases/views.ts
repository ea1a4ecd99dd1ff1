import type { AsideFile } from '../../core/cards/recognise';
import { and, asc, count as drizzleCount, desc, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { shownPath, type ShownPath } from '../../core/names';
import { counterGaps, counterTurns } from '../../core/cards/counter';
import { dateOf, spanWords } from '../../core/facts/clocks';
import type { ClocksView } from '../../core/facts/shapes';
import { isMoving, isRecording } from '../../core/cards/shape';
import { fieldOf, formatValue, SOURCE_WORDS } from '../../core/facts/catalogue';
import { NO_BRIEF } from '../../core/facts/brief';
import { contradicts, factsOf } from '../../core/facts/facts';
import { pairReason } from '../../core/pairing/prove';
import { estimate, LIGHT, needsProxy } from '../../core/recipes/recipe';
import { formatRate, fps } from '../../core/timecode/rate';
import type {
  CardView,
  ClipDetail,
  ClipView,
  LogEntry,
  PairView,
  PlanDetail,
  ProxiesView,
  Rolling,
  WallView,
  WorkKind,
  WorkSummary,
  WorkView,
} from '../../core/shapes';
import { cards, clips, days, files, log, pairs, plans, steps, work } from '../db/schema';
import { NotFound } from '../errors';
import type { Runtime } from '../runtime';
import { stepsOf, toStep, undoablePlans } from './applyPlan';
import { openSuspicions } from './clocks';
import { byClip, type FileRow } from './families';
import { findJob } from './theJob';
import { clipName, splitPath } from './naming';
import { contextsOf } from './readClips';
import { listRoots } from './roots';
import { safeCopyCounts } from '../custody/wipe';

/** A clip as lists show it: what was worked out of its statements, not the statements. */
const LISTED = {
  id: clips.id,
  card: clips.card,
  original: clips.original,
  kind: clips.kind,
  state: clips.state,
  fault: clips.fault,
  filmstrip: clips.filmstrip,
  notes: clips.notes,
  brief: clips.brief,
};
type ClipRow = Pick<typeof clips.$inferSelect, keyof typeof LISTED>;
type PairRow = typeof pairs.$inferSelect;
type CardRow = typeof cards.$inferSelect;

interface Everything {
  clips: ClipRow[];
  families: Map<string, FileRow[]>;
  pairs: Map<string, PairRow>;
  cards: Map<string, CardRow>;
  dates: Map<number, string | null>;
  dayStart: number;
  twins: Map<string, FileRow[]>;
}

async function everything(runtime: Runtime, card?: string): Promise<Everything> {
  const clipRows = await runtime.db
    .select(LISTED)
    .from(clips)
    .where(card ? eq(clips.card, card) : undefined);
  const fileRows = await (card
    ? runtime.db
        .select()
        .from(files)
        .where(
          inArray(files.clip, runtime.db.select({ id: clips.id }).from(clips).where(eq(clips.card, card))),
        )
    : runtime.db.select().from(files));
  const families = byClip(fileRows);
  const job = await findJob(runtime);
  return {
    clips: clipRows,
    families,
    dayStart: job?.dayStart ?? 0,
    dates: new Map((await runtime.db.select().from(days)).map((d) => [d.number, d.date])),
    twins: await twinsOf(runtime),
    pairs: new Map((await runtime.db.select().from(pairs)).map((p) => [p.file, p])),
    cards: new Map((await runtime.db.select().from(cards)).map((c) => [c.id, c])),
  };
}

/** Originals whose contents stand in the job more than once, by their fingerprint. */
async function twinsOf(runtime: Runtime): Promise<Map<string, FileRow[]>> {
  const again = runtime.db
    .select({ sample: files.sample })
    .from(files)
    .where(and(eq(files.role, 'original'), isNotNull(files.sample)))
    .groupBy(files.sample)
    .having(sql`count(*) > 1`);
  const twins = new Map<string, FileRow[]>();
  for (const f of await runtime.db
    .select()
    .from(files)
    .where(and(eq(files.role, 'original'), inArray(files.sample, again))))
    twins.set(f.sample!, [...(twins.get(f.sample!) ?? []), f]);
  return twins;
}

const PAIR_RANK = { proven: 0, unproven: 1, mismatched: 2 } as const;

/** The pair that counts: a proven one before an unproven one, a made one before the camera's. */
function pairOf(all: Everything, family: readonly FileRow[]): PairView {
  const found = family
    .filter((f) => f.role === 'proxy' || f.role === 'cameraProxy')
    .map((file) => ({ file, pair: all.pairs.get(file.id) }))
    .sort(
      (a, b) =>
        PAIR_RANK[a.pair?.state ?? 'unproven'] - PAIR_RANK[b.pair?.state ?? 'unproven'] ||
        (a.file.role === 'proxy' ? -1 : 1),
    );
  const best = found[0];
  if (!best) return { state: 'missing', checks: [], file: null, made: false };
  return {
    state: best.pair?.state ?? 'unproven',
    checks: best.pair?.checks ?? [],
    file: best.file.id,
    made: best.file.role === 'proxy',
  };
}

function clipView(all: Everything, row: ClipRow): ClipView {
  const family = all.families.get(row.id) ?? [];
  const original = family.find((f) => f.role === 'original');
  const card = all.cards.get(row.card)!;
  const brief = row.brief ?? NO_BRIEF;
  const pair = pairOf(all, family);
  const problems: ClipView['problems'] = [];
  if (row.fault !== null) problems.push({ level: 'stop', text: row.fault });
  else if (row.state === 'read')
    problems.push(...[...brief.looks, ...row.notes].map((text) => ({ level: 'look' as const, text })));
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
  const twin = original?.sample ? all.twins.get(original.sample)?.find((f) => f.clip !== row.id) : undefined;
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

const inOrder = (a: ClipView, b: ClipView): number =>
  (a.recordedAt ?? '9') < (b.recordedAt ?? '9')
    ? -1
    : (a.recordedAt ?? '9') > (b.recordedAt ?? '9')
      ? 1
      : a.original.localeCompare(b.original, 'en', { numeric: true });

/** The clips of a card in shooting order; of the whole job where no card is named. */
export async function clipViews(runtime: Runtime, card?: string): Promise<ClipView[]> {
  return viewsOf(await everything(runtime, card), card);
}

function viewsOf(all: Everything, card?: string): ClipView[] {
  if (card && !all.cards.has(card))
    throw new NotFound(`There is no card ${card} in this job.`, { next: 'Go back to the Wall.' });
  return all.clips.map((c) => clipView(all, c)).sort(inOrder);
}

export async function clipDetail(runtime: Runtime, id: string): Promise<ClipDetail> {
  const [row] = await runtime.db
    .select({ ...LISTED, statements: clips.statements })
    .from(clips)
    .where(eq(clips.id, id));
  if (!row) throw new NotFound('This clip is not in the job any more.');
  const all = await everything(runtime, row.card);
  const context = (await contextsOf(runtime, await findJob(runtime))).get(row.card);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const moved = await runtime.db
    .select({ at: plans.madeAt, kind: plans.kind, state: steps.state, to: steps.toPath, file: steps.file })
    .from(steps)
    .innerJoin(plans, eq(steps.plan, plans.id))
    .where(eq(steps.clip, id))
    .orderBy(desc(plans.madeAt));
  const family = all.families.get(id) ?? [];
  const original = family.find((f) => f.role === 'original');
  const show = (v: Parameters<typeof formatValue>[0], field: string) =>
    formatValue(v, field as Parameters<typeof formatValue>[1]);
  return {
    ...clipView(all, row),
    facts: [...factsOf(row.statements, context)].map(([field, { chosen, others }]) => ({
      field,
      group: fieldOf(field).group,
      term: fieldOf(field).term,
      value: show(chosen.value, field),
      source: SOURCE_WORDS[chosen.source],
      others: others
        .map((o) => ({
          value: show(o.value, field),
          source: SOURCE_WORDS[o.source],
          contradicts: contradicts(field, chosen, o),
        }))
        .filter((o) => o.value !== show(chosen.value, field)),
    })),
    family: family.map((f) => ({
      id: f.id,
      role: f.role,
      place: { root: f.root, path: shownPath(f.path) },
      rootName: roots.get(f.root)?.name ?? f.root,
      size: f.size,
    })),
    history: moved
      .filter((m) => m.file === original?.id && m.state === 'done')
      .map((m) => ({
        at: m.at.toISOString(),
        text: `${m.kind === 'name' ? 'Named' : 'Taken back to'} ${splitPath(m.to).stem}`,
      })),
  };
}

/** The camera's names whose numbers count for gaps: each chapter has its own, a row of stills says its gaps itself. */
const numbersOf = (all: Everything, v: ClipView): string[] =>
  v.kind === 'stills'
    ? []
    : (all.families.get(v.id) ?? [])
        .filter((f) => f.role === 'original' || f.role === 'segment')
        .map((f) => (/^_\d$/.test(f.suffix) && f.takenPath ? splitPath(f.takenPath).stem : v.original));

function cardView(
  all: Everything,
  row: CardRow,
  views: readonly ClipView[],
  safe: number,
  suspicions: ClocksView['suspicions'],
): CardView {
  const gaps = counterGaps(views.flatMap((v) => numbersOf(all, v))).map((g) =>
    g.count === 1
      ? `${g.from} is missing after ${g.after}`
      : `${g.from} to ${g.to} are missing after ${g.after}`,
  );
  const clocks = suspicions
    .filter((s) => s.camera === row.camera && s.fromDay <= row.day && s.toDay >= row.day)
    .map(
      (s) => `the clock looks ${spanWords(s.seconds)} ${s.seconds > 0 ? 'slow' : 'fast'}: see Facts, Clocks`,
    );
  const oddities = [
    ...clocks,
    ...gaps,
    ...counterTurns(
      views.filter((v) => v.kind !== 'stills').map((v) => ({ name: v.original, recordedAt: v.recordedAt })),
    ),
  ];
  return {
    id: row.id,
    camera: row.camera,
    day: row.day,
    shape: row.shape,
    folder: shownPath(row.folder),
    takenAt: row.takenAt.toISOString(),
    clips: views.length,
    seconds: views.reduce((n, v) => n + (v.seconds ?? 0), 0),
    bytes: views.reduce((n, v) => n + v.bytes, 0),
    safe,
    done: {
      read: views.filter((v) => v.state !== 'waiting').length,
      named: views.filter((v) => v.named).length,
      proxied: views.filter((v) => v.pair.state !== 'missing' || !isMoving(v.kind)).length,
      paired: views.filter((v) => v.pair.state === 'proven' || !isMoving(v.kind)).length,
    },
    stop: views.filter((v) => v.problems.some((p) => p.level === 'stop')).length,
    look:
      views.filter((v) => v.problems.length > 0 && v.problems.every((p) => p.level === 'look')).length +
      oddities.length,
    aside: row.aside.length,
    oddities,
  };
}

export const wallView = (runtime: Runtime): Promise<WallView> =>
  runtime.memory.of('wall', async () => {
    const all = await everything(runtime);
    const byCard = new Map<string, ClipView[]>();
    for (const row of all.clips) {
      const list = byCard.get(row.card) ?? [];
      list.push(clipView(all, row));
      byCard.set(row.card, list);
    }
    const safe = await safeCopyCounts(runtime);
    const suspicions = await openSuspicions(runtime);
    const rolling: Rolling[] = [...byCard.values()].flat().flatMap((v) => {
      if (!v.recordedAt || v.seconds === null) return [];
      const [h, m, s] = v.recordedAt.slice(11).split(':').map(Number) as [number, number, number];
      const from = h * 3600 + m * 60 + s;
      return [{ clip: v.id, name: v.name, camera: v.camera, day: v.day, from, to: from + v.seconds }];
    });
    return {
      cards: [...all.cards.values()]
        .sort((a, b) => a.id.localeCompare(b.id, 'en', { numeric: true }))
        .map((c) => cardView(all, c, byCard.get(c.id) ?? [], safe.get(c.id) ?? 0, suspicions)),
      rolling,
    };
  });

export async function cardDetail(
  runtime: Runtime,
  id: string,
): Promise<CardView & { asideFiles: (Omit<AsideFile, 'path'> & { path: ShownPath })[]; views: ClipView[] }> {
  const all = await everything(runtime, id);
  const views = viewsOf(all, id);
  const row = all.cards.get(id)!;
  const asideFiles = row.aside.map((a) => ({ ...a, path: shownPath(a.path) }));
  return {
    ...cardView(all, row, views, (await safeCopyCounts(runtime)).get(id) ?? 0, await openSuspicions(runtime)),
    asideFiles,
    views,
  };
}

/** Times real time of the last proxies, or a guess before the first. */
async function measuredSpeed(runtime: Runtime): Promise<{ timesRealTime: number; measured: boolean }> {
  const rows = await runtime.db
    .select({ speed: work.speed })
    .from(work)
    .where(eq(work.kind, 'proxy'))
    .orderBy(desc(work.endedAt))
    .limit(40);
  const speeds = rows.flatMap((r) => (r.speed !== null && r.speed > 0 ? [r.speed] : []));
  return speeds.length === 0
    ? { timesRealTime: 2, measured: false }
    : { timesRealTime: speeds.length / speeds.reduce((n, s) => n + 1 / s, 0), measured: true };
}

/** Work of a kind that is queued or running; with `ended`, also what was done, failed or cancelled. */
export async function workViews(runtime: Runtime, kind: WorkKind, ended: boolean): Promise<WorkView[]> {
  const rows = await runtime.db
    .select({
      work,
      card: clips.card,
      original: clips.original,
      brief: clips.brief,
      path: files.path,
      suffix: files.suffix,
    })
    .from(work)
    .innerJoin(clips, eq(clips.id, work.clip))
    .leftJoin(files, and(eq(files.clip, work.clip), eq(files.role, 'original')))
    .where(and(eq(work.kind, kind), ended ? undefined : inArray(work.state, ['queued', 'running'])))
    .orderBy(asc(work.queuedAt));
  return rows.map(({ work: w, card, original, brief, path, suffix }): WorkView => ({
    id: w.id,
    kind: w.kind,
    clip: w.clip,
    clipName: clipName({ path, suffix }, original),
    card,
    state: w.state,
    progress: w.progress,
    speed: w.speed,
    fault: w.fault,
    attempts: w.attempts,
    seconds: brief?.seconds ?? null,
    endedAt: w.endedAt?.toISOString() ?? null,
  }));
}

/** What is under way: how much of each kind, and the proxies one by one. */
export async function workSummary(runtime: Runtime): Promise<WorkSummary> {
  const counts = new Map(
    (
      await runtime.db
        .select({ kind: work.kind, n: drizzleCount() })
        .from(work)
        .where(inArray(work.state, ['queued', 'running']))
        .groupBy(work.kind)
    ).map((r) => [r.kind, r.n]),
  );
  return {
    read: counts.get('read') ?? 0,
    rest: counts.get('rest') ?? 0,
    filmstrip: counts.get('filmstrip') ?? 0,
    proxies: await workViews(runtime, 'proxy', false),
  };
}

export async function proxiesView(runtime: Runtime): Promise<ProxiesView> {
  const views = (await clipViews(runtime)).sort(
    (a, b) => a.card.localeCompare(b.card, 'en', { numeric: true }) || inOrder(a, b),
  );
  const made = await workViews(runtime, 'proxy', true);
  const open = new Set(made.filter((w) => w.state === 'queued' || w.state === 'running').map((w) => w.clip));
  const needs = views.flatMap((v) => {
    const need = needsProxy({
      readable: v.state === 'read',
      hasProvenProxy: v.pair.state === 'proven',
      hasCameraProxy: v.pair.state !== 'missing',
    });
    if (
      !need.needed ||
      open.has(v.id) ||
      (v.pair.made && v.pair.state !== 'missing') ||
      !v.rate ||
      v.frames === null
    )
      return [];
    const high = fps(v.rate) >= 100 && v.pair.state === 'missing';
    return [{ view: v, because: high ? `the camera made none at ${formatRate(v.rate)} fps` : need.because }];
  });
  const speed = await measuredSpeed(runtime);
  const sizes = needs.map(({ view: v }) => ({
    width: v.width ?? 1920,
    height: v.height ?? 1080,
    frames: v.frames!,
    rate: v.rate!,
    channels: v.channels ?? 0,
  }));
  const checked = new Map(
    (await runtime.db.select({ file: pairs.file, at: pairs.checkedAt }).from(pairs)).map((p) => [
      p.file,
      p.at,
    ]),
  );
  return {
    recipe: { id: LIGHT.id, name: LIGHT.name },
    needs: needs.map(({ view, because }) => ({
      clip: view.id,
      name: view.name,
      card: view.card,
      because,
      rate: formatRate(view.rate!),
      seconds: view.seconds ?? 0,
    })),
    estimate: { ...estimate(LIGHT, sizes, speed.timesRealTime), ...speed },
    pairs: views.map((v) => ({
      clip: v.id,
      name: v.name,
      card: v.card,
      state: v.pair.state,
      made: v.pair.made,
      reason: v.state === 'unreadable' ? 'the original cannot be read' : pairReason(v.pair.checks),
      checks: v.pair.checks,
      checkedAt: (v.pair.file ? checked.get(v.pair.file)?.toISOString() : null) ?? null,
    })),
    work: made,
  };
}

export async function logView(runtime: Runtime): Promise<LogEntry[]> {
  const rows = await runtime.db.select().from(log).orderBy(desc(log.at)).limit(500);
  const planRows = new Map((await runtime.db.select().from(plans)).map((p) => [p.id, p]));
  const counts = new Map(
    (await runtime.db.select({ plan: steps.plan, n: drizzleCount() }).from(steps).groupBy(steps.plan)).map(
      (r) => [r.plan, r.n],
    ),
  );
  const undoable = await undoablePlans(runtime);
  return rows.map((r): LogEntry => ({
    id: r.id,
    at: r.at.toISOString(),
    who: r.who,
    kind: r.kind,
    text: r.text,
    planId: r.plan,
    planState: (r.plan ? planRows.get(r.plan)?.state : null) ?? null,
    undoable: r.plan !== null && r.kind === 'name' && undoable.has(r.plan),
    steps: (r.plan ? counts.get(r.plan) : 0) ?? 0,
  }));
}

export async function planDetail(runtime: Runtime, id: string): Promise<PlanDetail> {
  const [plan] = await runtime.db.select().from(plans).where(eq(plans.id, id));
  if (!plan) throw new NotFound('This change is not in the logbook.');
  return { id, state: plan.state, steps: (await stepsOf(runtime, id)).map(stepView) };
}

const stepView = (s: Awaited<ReturnType<typeof stepsOf>>[number]): PlanDetail['steps'][number] => ({
  ...toStep(s),
  from: { root: s.fromRoot, path: shownPath(s.fromPath) },
  to: { root: s.toRoot, path: shownPath(s.toPath) },
  state: s.state,
  fault: s.fault,
});
