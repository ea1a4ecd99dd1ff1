import { and, asc, count as drizzleCount, desc, eq, inArray } from 'drizzle-orm';
import { isMoving } from '../../core/intake';
import { pairReason } from '../../core/proxies/prove';
import { estimate, LIGHT, needsProxy } from '../../core/proxies/recipe';
import { formatRate, fps } from '../../core/platform/timecode/rate';
import type { ProxiesView } from '../../core/proxies/shapes';
import { OPEN_WORK, type WorkKind, type WorkSummary, type WorkView } from '../../core/platform/shapes';
import { clips, files } from '../cards/tables';
import { pairs } from './tables';
import { shown } from '../facts/tables';
import { work } from '../platform/work/tables';
import type { InJob } from './ports';
import { FOREIGN } from '../reading';
import { clipsOf, clipName, clipViews, inOrder } from '../cards';

/** Times real time of the last proxies, or a guess before the first. */
async function measuredSpeed(runtime: InJob): Promise<{ timesRealTime: number; measured: boolean }> {
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
  const counts = new Map(
    (
      await runtime.db
        .select({ kind: work.kind, n: drizzleCount() })
        .from(work)
        .where(and(eq(work.job, runtime.job), inArray(work.state, [...OPEN_WORK])))
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

export async function proxiesView(runtime: InJob): Promise<ProxiesView> {
  const views = (await clipViews(runtime)).sort(
    (a, b) => a.card.localeCompare(b.card, 'en', { numeric: true }) || inOrder(a, b),
  );
  const made = await workViews(runtime, 'proxy', true);
  const open = new Set(made.filter((w) => OPEN_WORK.some((s) => s === w.state)).map((w) => w.clip));
  const isForeign = (v: (typeof views)[number]) => v.problems.some((p) => p.text === FOREIGN);
  const needs = views.flatMap((v) => {
    const need = needsProxy({
      readable: v.state === 'read',
      hasProvenProxy: v.pair.state === 'proven',
      hasCameraProxy: v.pair.state !== 'missing',
    });
    if (
      !need.needed ||
      isForeign(v) ||
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
    (
      await runtime.db
        .select({ file: pairs.file, at: pairs.checkedAt })
        .from(pairs)
        .where(inArray(pairs.clip, clipsOf(runtime.db, runtime.job)))
    ).map((p) => [p.file, p.at]),
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
      changes: v.pair.changes,
      reason:
        v.state === 'unreadable'
          ? 'the original cannot be read'
          : v.state === 'read' && isMoving(v.kind) && (isForeign(v) || !v.rate || v.frames === null)
            ? `none can be made: ${isForeign(v) ? 'this machine has no decoder for it' : 'its rate or length is not known here'}`
            : pairReason(v.pair.checks),
      checks: v.pair.checks,
      checkedAt: (v.pair.file ? checked.get(v.pair.file)?.toISOString() : null) ?? null,
    })),
    work: made,
  };
}
