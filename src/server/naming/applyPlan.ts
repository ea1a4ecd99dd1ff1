import { plural } from '../../core/platform/words';
import type { NamingRequest, PlanResult } from '../../core/naming/shapes';
import { saveSettings } from '../jobs';
import { writeLog } from '../logbook';
import { Clash, Refused } from '../platform/errors';
import { alone, type TaskContext } from '../platform/work/context';
import { execute } from './execute';
import { planNaming } from './naming';
import { storePlan } from './planStore';
import type { InJob } from './ports';

/** Applies a naming plan: the very one whose fingerprint was shown, or nothing. Its convention and folders become the job's unless `keep` is false. */
export function applyNaming(
  runtime: InJob,
  request: NamingRequest & { fingerprint: string },
  task: TaskContext = alone(),
  { keep = true }: { keep?: boolean } = {},
): Promise<PlanResult> {
  return runtime.exclusively(async () => {
    const { plan, summary, numbers, fingerprint } = await planNaming(runtime, request);
    if (fingerprint() !== request.fingerprint) {
      throw new Clash('The clips or the shelf have changed since this list was made.', {
        next: 'Nothing was changed. Look at the new list, then apply.',
      });
    }
    if (summary.stops > 0)
      throw new Refused(`${summary.stops} problems stop this plan.`, {
        next: 'Fix them, or leave those clips out.',
      });
    if (plan.steps.length === 0) throw new Refused('Every clip already has its name and place.');
    if (keep)
      await saveSettings(runtime, {
        convention: request.convention,
        folderPlan: request.folderPlan,
        naming: { rules: request.rules, systems: request.systems },
      });
    const id = await storePlan(runtime, 'name', plan.steps, { given: numbers });
    const result = await execute(runtime, id, task);
    await writeLog(runtime, 'name', `${sentence(result)} by “${request.convention.name}”`, id);
    runtime.events.changed('log');
    return result;
  });
}

/** What came of a plan, as the logbook has it. */
export const sentence = (r: PlanResult): string =>
  `${plural(r.done, 'file')} renamed and placed${r.failed.length > 0 ? `, ${r.failed.length} left where they were` : ''}`;
