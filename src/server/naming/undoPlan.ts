import { and, eq, inArray } from 'drizzle-orm';
import { isMade, MADE_ROLES } from '../../core/intake';
import { orderSteps, type Step, undoSteps } from '../../core/naming/plan';
import type { PlanResult } from '../../core/naming/shapes';
import { plural } from '../../core/platform/words';
import { fixedFolder } from '../../core/proxies';
import { splitPath } from '../cards';
import { clips, files } from '../cards/tables';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { among } from '../platform/db/among';
import { NotFound, Refused } from '../platform/errors';
import { alone, type TaskContext } from '../platform/work/context';
import { proxyPlace } from '../proxies';
import { pairs } from '../proxies/tables';
import { sentence } from './applyPlan';
import { execute } from './execute';
import { markUndone, type StepRow, stepsOf, storePlan, toStep, undoable } from './planStore';
import type { InJob } from './ports';
import { plans } from './tables';

/**
 * Takes back what a plan did to some clips, or to all of which it can be: those whose files are where it left them, whatever later
 * plans did to others. Made proxies of its clips go back to where unnamed ones stand.
 */
export function undoPlan(
  runtime: InJob,
  planId: string,
  task: TaskContext = alone(),
  chosen: readonly string[] = [],
): Promise<PlanResult> {
  return runtime.exclusively(async () => {
    const [plan] = await runtime.db
      .select()
      .from(plans)
      .where(and(eq(plans.job, runtime.job), eq(plans.id, planId)));
    if (!plan) throw new NotFound('This change is not in the logbook.');
    const wanted = new Set(chosen);
    const of = (await undoable(runtime, [planId])).filter((u) => wanted.size === 0 || wanted.has(u.clip));
    const can = new Set(of.filter((u) => u.back === 'open').map((u) => u.clip));
    if (can.size === 0)
      throw new Refused('This change can no longer be undone.', {
        next:
          of.length === 0
            ? 'It was undone already, or its clips have left the job.'
            : 'Its clips were renamed again: undo the later changes of the same clips first.',
      });
    const done = (await stepsOf(runtime, planId)).filter((s) => s.state === 'done' && can.has(s.clip));
    const back = waysBack(done);
    const steps = orderSteps([...(await proxiesBack(runtime, back)), ...back]);
    const id = await storePlan(runtime, 'undo', steps, { undoes: planId });
    const result = await execute(runtime, id, task);
    await markUndone(runtime, planId, id);
    const stayed = of.length - can.size;
    await writeLog(
      runtime,
      'undo',
      `${sentence(result)}: undone${stayed > 0 ? `; ${plural(stayed, 'clip')} could not be, renamed again or removed since` : ''}`,
      id,
    );
    runtime.events.changed('log');
    return result;
  });
}

/** One step for each file, from where its last one led to where its first one began: names that waited in between are passed over. */
function waysBack(done: readonly StepRow[]): Step[] {
  const ways = new Map<string, StepRow[]>();
  for (const s of done) {
    const way = ways.get(s.file);
    if (way) way.push(s);
    else ways.set(s.file, [s]);
  }
  return [...ways.values()].map((way) => {
    const [first, last] = [toStep(way[0]!), toStep(way.at(-1)!)];
    const [back] = undoSteps([{ ...first, to: last.to }]);
    return back!;
  });
}

/** Steps for made proxies that came after the plan: their clip loses its name, so they go with it. */
async function proxiesBack(runtime: InJob, back: readonly Step[]): Promise<Step[]> {
  const clipIds = [...new Set(back.map((s) => s.clipId))];
  const covered = new Set(back.map((s) => s.fileId));
  const family = await runtime.db
    .select({ file: files, clip: clips, recipe: pairs.recipe })
    .from(files)
    .innerJoin(clips, eq(files.clip, clips.id))
    .leftJoin(pairs, eq(pairs.file, files.id))
    .where(and(among(files.clip, clipIds), inArray(files.role, ['original', ...MADE_ROLES])));
  const { code } = await requireJob(runtime);
  const originals = new Map(family.filter((f) => f.file.role === 'original').map((f) => [f.clip.id, f.file]));
  const ways = new Map(back.map((s) => [s.fileId, s]));
  const out: Step[] = [];
  for (const { file, clip, recipe } of family) {
    // What was adopted stood where it is before the clip was named, and may be in a root that is only read.
    if (!isMade(file.role) || file.takenPath !== null || covered.has(file.id)) continue;
    const original = originals.get(clip.id);
    const way = original && ways.get(original.id);
    if (!way) continue;
    const place = proxyPlace(
      code,
      clip,
      { ...original, root: way.to.root, path: way.to.path },
      { tail: file.suffix + splitPath(file.path).extension, folder: recipe ? fixedFolder(recipe) : null },
    );
    if (place === file.path) continue;
    out.push({
      clipId: clip.id,
      fileId: file.id,
      kind: 'move',
      from: { root: file.root, path: file.path },
      to: { root: file.root, path: place },
      size: file.size,
      modified: file.modified,
    });
  }
  return out;
}
