import { and, asc, eq } from 'drizzle-orm';
import type { StepState } from '../../core/naming/shapes';
import { standsAt } from '../cards';
import { writeLog } from '../logbook';
import { inWords } from '../platform/files/faults';
import { alone } from '../platform/work/context';
import { inJob } from '../services';
import { sentence } from './applyPlan';
import { type Roots, rootsNow, settle } from './doStep';
import { execute, stays } from './execute';
import { markUndone, type StepRow, stepsOf, toStep } from './planStore';
import type { InJob, Ports } from './ports';
import { plans, steps } from './tables';

/**
 * After a crash: for every plan that was under way the disk is asked how far its current step had come, half steps are
 * taken back, and the rest of the plan is done. Returns the roots that are away and that a plan waits for.
 */
export async function recoverPlans(runtime: Ports): Promise<string[]> {
  const waiting: string[] = [];
  const open = await runtime.db
    .select()
    .from(plans)
    .where(eq(plans.state, 'doing'))
    .orderBy(asc(plans.madeAt));
  for (const plan of open) {
    const all = await stepsOf(runtime, plan.id);
    // A drive that is away takes nothing back and gives nothing up: the plan goes on when it is there.
    const left = all.filter((s) => s.state !== 'reverted');
    const roots = await rootsNow(runtime, left);
    const wanted = new Set(left.flatMap((s) => [s.fromRoot, s.toRoot]));
    const away = [...wanted].filter((id) => !roots.get(id)?.on).map((id) => roots.get(id)?.name ?? id);
    if (away.length > 0) {
      waiting.push(...away);
      continue;
    }
    const its = inJob(runtime, plan.job);
    await settlePlan(its, roots, all);
    const result = await execute(its, plan.id, alone());
    if (plan.undoes) await markUndone(its, plan.undoes, plan.id);
    await writeLog(
      its,
      'recovery',
      `A ${plan.kind === 'undo' ? 'way back' : 'naming'} that was interrupted was finished: ${sentence(result)}`,
      plan.id,
    );
  }
  return waiting;
}

/**
 * Asks the disk how far each open step had come. The database may be behind by many steps: a power cut takes what it had not
 * written out, while names are flushed before a step is called done. A file that is at the end of its way has been
 * through all of it.
 */
async function settlePlan(runtime: InJob, roots: Roots, all: readonly StepRow[]): Promise<void> {
  const keep = async (s: StepRow, state: StepState, fault: string | null): Promise<void> => {
    Object.assign(s, { state, fault });
    await runtime.db.transaction(async (tx) => {
      await tx
        .update(steps)
        .set({ state, fault })
        .where(and(eq(steps.plan, s.plan), eq(steps.number, s.number)));
      if (state === 'done') await standsAt(tx, s.file, { root: s.toRoot, path: s.toPath }, stays(s.kind));
    });
  };
  const ways = new Map<string, StepRow[]>();
  for (const s of all) ways.set(s.file, [...(ways.get(s.file) ?? []), s]);
  for (const way of ways.values()) {
    let passed = false;
    for (const s of [...way].reverse()) {
      if (s.state !== 'doing' && s.state !== 'waiting') continue;
      const settled: { state: StepState; fault: string | null } = passed
        ? { state: 'done', fault: null }
        : await settle(roots, toStep(s)).catch((e: unknown) => ({ state: 'failed', fault: inWords(e) }));
      passed ||= settled.state === 'done';
      // Of a step that was not begun nothing is said here: it is tried, and says itself what is in its way.
      if (settled.state === 'failed' && s.state === 'waiting') continue;
      if (settled.state === 'failed' && passed) continue;
      await keep(s, settled.state, settled.fault);
    }
    // The place is where the last step that was done led to.
    const last = way.findLast((s) => s.state === 'done');
    if (last) await keep(last, 'done', null);
  }
}
