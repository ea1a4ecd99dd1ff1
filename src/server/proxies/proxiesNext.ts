import { addWork } from '../cards';
import type { StepOutcome, StepOutcomes } from '../../core/next';
import type { InJob } from './ports';
import { lacksProxy } from './byItself';
import { proxiesView } from './views';

/** Begins the proxies of clips that need one and have none. Of those that can have none the reason is said; sound and stills need none. */
export async function proxiesNext(runtime: InJob, ids: readonly string[]): Promise<StepOutcomes> {
  const wanted = new Set(ids);
  const { clips, pairs, work } = await proxiesView(runtime);
  const outcomes = new Map<string, StepOutcome>(ids.map((id) => [id, 'done']));
  const makeable = new Map(clips.map((c) => [c.clip, c]));
  for (const { clip, file, reason, state } of pairs)
    if (wanted.has(clip) && !makeable.has(clip) && file === null && state !== 'waiting' && reason !== '')
      outcomes.set(clip, { why: `It gets no proxy: ${reason}` });
  // What was begun before, and failed or was cancelled, is told among the proxies.
  const lacks = lacksProxy(work);
  const ready = clips.filter((c) => wanted.has(c.clip) && lacks(c));
  await addWork(
    runtime,
    'proxy',
    ready.map((c) => c.clip),
  );
  return outcomes;
}
