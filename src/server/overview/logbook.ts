import { and, count as drizzleCount, desc, eq, isNull, or } from 'drizzle-orm';
import { shownPath } from '../../core/platform/names';
import type { LogEntry } from '../../core/logbook';
import type { PlanDetail } from '../../core/naming';
import { log } from '../logbook/tables';
import { plans, steps } from '../naming/tables';
import { NotFound } from '../platform/errors';
import type { InJob } from './ports';
import { clips } from '../cards/tables';
import { stepsOf, toStep, undoable, undoablePlans } from '../naming';
import { among } from '../platform/db/among';

export async function logView(runtime: InJob): Promise<LogEntry[]> {
  const mine = eq(plans.job, runtime.job);
  const rows = await runtime.db
    .select()
    .from(log)
    .where(or(eq(log.job, runtime.job), isNull(log.job)))
    .orderBy(desc(log.at))
    .limit(500);
  const planRows = new Map((await runtime.db.select().from(plans).where(mine)).map((p) => [p.id, p]));
  const counts = new Map(
    (
      await runtime.db
        .select({ plan: steps.plan, n: drizzleCount() })
        .from(steps)
        .innerJoin(plans, eq(plans.id, steps.plan))
        .where(mine)
        .groupBy(steps.plan)
    ).map((r) => [r.plan, r.n]),
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

export async function planDetail(runtime: InJob, id: string): Promise<PlanDetail> {
  const [plan] = await runtime.db
    .select()
    .from(plans)
    .where(and(eq(plans.job, runtime.job), eq(plans.id, id)));
  if (!plan) throw new NotFound('This change is not in the logbook.');
  const all = await stepsOf(runtime, id);
  const ids = [...new Set(all.map((s) => s.clip))];
  const names = new Map(
    (
      await runtime.db
        .select({ id: clips.id, original: clips.original })
        .from(clips)
        .where(among(clips.id, ids))
    ).map((c) => [c.id, c.original]),
  );
  const back = new Map((await undoable(runtime, id)).map((u) => [u.clip, u.back]));
  return {
    id,
    state: plan.state,
    clips: ids.map((clip) => ({
      id: clip,
      original: shownPath(names.get(clip) ?? all.find((s) => s.clip === clip)!.fromPath),
      back: back.get(clip) ?? 'undone',
    })),
    steps: all.map(stepView),
  };
}

const stepView = (s: Awaited<ReturnType<typeof stepsOf>>[number]): PlanDetail['steps'][number] => ({
  ...toStep(s),
  from: { root: s.fromRoot, path: shownPath(s.fromPath) },
  to: { root: s.toRoot, path: shownPath(s.toPath) },
  state: s.state,
  fault: s.fault,
});
