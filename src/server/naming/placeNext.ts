import { newBlock } from '../../core/naming/blocks';
import type { Convention } from '../../core/naming';
import { namingRequest } from '../../core/naming/shapes';
import { clips } from '../cards/tables';
import type { StepOutcome, StepOutcomes } from '../../core/next';
import { clipsBeingCopied } from '../offload';
import { among } from '../platform/db/among';
import { Clash, messageOf } from '../platform/errors';
import { applyNaming } from './applyPlan';
import { clipsInOpenPlans } from './load';
import { planRest, settingsOf } from './planRest';
import type { InJob } from './ports';

/** Keeps the name that a clip has now. */
const keepsName = ({ name }: Convention): Convention => ({
  name,
  blocks: [newBlock('original', 'current', { part: 'current' })],
  changes: [],
});

/**
 * Puts clips in place as the job's folder plan says, under their names or the job's. What is being copied or named now waits; what cannot
 * be read, or a problem stops, is for a person.
 */
export async function placeNext(
  runtime: InJob,
  ids: readonly string[],
  how: 'place' | 'name',
): Promise<StepOutcomes> {
  const [copying, moving] = [await clipsBeingCopied(runtime), await clipsInOpenPlans(runtime)];
  const states = await runtime.db
    .select({ id: clips.id, state: clips.state, fault: clips.fault })
    .from(clips)
    .where(among(clips.id, ids));
  const outcomes = new Map<string, StepOutcome>();
  for (const { id, state, fault } of states)
    if (state === 'unreadable')
      outcomes.set(id, { why: `It cannot be read${fault === null ? '' : `: ${fault}`}` });
    else if (copying.has(id) || moving.has(id) || state !== 'read') outcomes.set(id, 'later');
  const ready = states.map((s) => s.id).filter((id) => !outcomes.has(id));
  if (ready.length === 0) return outcomes;
  const own = await settingsOf(runtime);
  const settings =
    how === 'name'
      ? own
      : {
          ...own,
          convention: keepsName(own.convention),
          rules: own.rules.map((r) => ({ ...r, convention: keepsName(r.convention) })),
        };
  const { request, preview, stopped } = await planRest(runtime, namingRequest({ ...settings, clips: ready }));
  for (const { row, why } of stopped) outcomes.set(row.clipId, { why });
  const moved = preview.rows.filter((r) => !outcomes.has(r.clipId) && r.steps > 0);
  for (const id of ready) if (!outcomes.has(id)) outcomes.set(id, 'done');
  if (preview.stops > 0 || moved.length === 0) return outcomes;
  const all = (outcome: StepOutcome) => moved.forEach((r) => outcomes.set(r.clipId, outcome));
  try {
    const { failed } = await applyNaming(
      runtime,
      { ...request, fingerprint: preview.fingerprint },
      undefined,
      { keep: false },
    );
    if (failed.length > 0) {
      const { preview: left } = await planRest(runtime, request);
      for (const row of left.rows)
        if (row.steps > 0 && outcomes.get(row.clipId) === 'done')
          outcomes.set(row.clipId, {
            why: (failed.find((f) => f.file.includes(row.current)) ?? failed[0]!).fault,
          });
    }
  } catch (e) {
    // Something changed since the plan was made: it is made anew.
    all(e instanceof Clash ? 'later' : { why: messageOf(e) });
  }
  return outcomes;
}
