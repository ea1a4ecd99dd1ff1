import { and, asc, eq } from 'drizzle-orm';
import { alikeFiles } from '../../core/naming/plan';
import type { StepState } from '../../core/naming/shapes';
import { standsAt } from '../cards';
import { writeLog } from '../logbook';
import { inWords } from '../platform/files/faults';
import { alone } from '../platform/work/context';
import { inJob } from '../services';
import { sentence } from './applyPlan';
import { type Roots, rootsNow, settle } from './doStep';
import { execute, stays } from './execute';
import { journalPlans } from './journal';
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
    await settlePlan(its, roots, all, await samplesTold(roots, plan.id, all));
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

/** Fingerprints of the files of a plan that could be taken for each other, by file; the journal has them. */
async function samplesTold(
  roots: Roots,
  plan: string,
  all: readonly StepRow[],
): Promise<ReadonlyMap<string, string | undefined>> {
  if (alikeFiles(all.map(toStep)).size === 0) return new Map();
  const told = await journalPlans(roots.get('shelf')!, (id) => id === plan);
  return new Map(told.flatMap((t) => t.plan.steps).map((s) => [s.fileId, s.sample]));
}

/**
 * Asks the disk how far each open step had come. The database may be behind by many steps: a power cut takes what it had not
 * written out, while names are flushed before a step is called done. A file that is at the end of its way has been
 * through all of it.
 */
async function settlePlan(
  runtime: InJob,
  roots: Roots,
  all: readonly StepRow[],
  samples: ReadonlyMap<string, string | undefined>,
): Promise<void> {
  const passed = new Set<string>();
  const settled: StepRow[] = [];
  for (const s of all.toReversed()) {
    if (s.state !== 'doing' && s.state !== 'waiting') continue;
    const now: { state: StepState; fault: string | null } = passed.has(s.file)
      ? { state: 'done', fault: null }
      : await settle(roots, { ...toStep(s), sample: samples.get(s.file) }).catch((e: unknown) => ({
          state: 'failed',
          fault: inWords(e),
        }));
    // Of a step that was not begun nothing is said here: it is tried, and says itself what is in its way.
    if (now.state === 'failed' && s.state === 'waiting') continue;
    if (now.state === 'done') passed.add(s.file);
    settled.push(Object.assign(s, now));
  }
  // In their order: a place is left before another file comes to it.
  for (const s of settled.toReversed()) await keep(runtime, s);
  // The place is where the last step that was done led to.
  for (const s of new Map(all.filter((s) => s.state === 'done').map((s) => [s.file, s])).values())
    await keep(runtime, { ...s, fault: null });
}

/** Keeps how far a step came, and where its file is. */
const keep = (runtime: InJob, s: StepRow): Promise<void> =>
  runtime.db.transaction(async (tx) => {
    await tx
      .update(steps)
      .set({ state: s.state, fault: s.fault })
      .where(and(eq(steps.plan, s.plan), eq(steps.number, s.number)));
    if (s.state === 'done') await standsAt(tx, s.file, { root: s.toRoot, path: s.toPath }, stays(s.kind));
  });
