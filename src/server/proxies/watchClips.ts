import { and, eq } from 'drizzle-orm';
import { LIGHT } from '../../core/proxies/recipe';
import type { WatchedThrough } from '../../core/proxies/shapes';
import { analysisOf, stateOf } from '../analysis';
import { originalOf, type Presence, presenceOf, soundsOf, withFile } from '../cards';
import { clips } from '../cards/tables';
import { rootById } from '../places';
import { NotFound, Refused, Unreadable } from '../platform/errors';
import { mkdir, rm } from '../platform/files/onDisk';
import { endIfStopped } from '../platform/work/context';
import type { WorkContext } from '../platform/work/kinds';
import { keepAll, makingName, makingStills, planMaking, stillsAt } from './makeProxies';
import type { InJob } from './ports';
import { watchThrough } from './proxy';

/**
 * Looks at and listens to clips of which nothing is made, for what a proxy's making would find: black, still, silence, clipped sound. What
 * was looked at already is not again; one that cannot be looked at keeps nothing from the others.
 */
export async function watchClips(
  runtime: InJob,
  ids: readonly string[],
  task: WorkContext,
): Promise<WatchedThrough> {
  const done: WatchedThrough = { clips: 0, found: 0, faults: [] };
  for (const [i, id] of [...new Set(ids)].entries()) {
    endIfStopped(task);
    try {
      const found = await watchClip(runtime, id, task, (share, speed) =>
        task.progress(i + share, ids.length, speed),
      );
      if (found === null) continue;
      done.clips++;
      if (found > 0) done.found++;
    } catch (e) {
      if (!(e instanceof Unreadable || e instanceof NotFound || e instanceof Refused)) throw e;
      done.faults.push(e.message);
    }
  }
  return done;
}

/** The original as it is on the disk; it may have been named meanwhile. */
async function presenceNow(runtime: InJob, id: string): Promise<Presence> {
  const original = await originalOf(runtime, id);
  return presenceOf(await rootById(runtime, original.root), original);
}

/** How much is found in a clip; null where it was looked at before, or is none of the job. */
async function watchClip(
  runtime: InJob,
  id: string,
  { id: work, attempt, signal }: WorkContext,
  tell: (share: number, speed: number) => void,
): Promise<number | null> {
  const [row] = await runtime.db
    .select()
    .from(clips)
    .where(and(eq(clips.job, runtime.job), eq(clips.id, id)));
  if (!row || row.state !== 'read') return null;
  const of = stateOf(await originalOf(runtime, id));
  if ((await analysisOf(runtime, id, of)) !== null) return null;
  const { source } = await planMaking(runtime, row, { recipe: LIGHT });
  await mkdir(makingStills(runtime));
  const stills = stillsAt(runtime, makingName(work, attempt));
  try {
    const seen = await withFile(runtime, id, 'original', async (file) =>
      watchThrough([file, ...(await soundsOf(runtime, id))], source, stills, {
        signal,
        onProgress: (p) => tell(p.done, p.speed),
      }),
    );
    // It counts as of the file that was read: of another nothing was seen.
    const now = await presenceNow(runtime, id);
    if (now.is !== 'there' || stateOf(now) !== of)
      throw new Unreadable(`${row.original} has changed since it was read: read its card again.`);
    await keepAll(runtime, id, of, seen, stills);
    runtime.events.changed('clips');
    return seen.analysis.findings.length;
  } finally {
    for (const at of [stills.filmstrip, stills.poster]) await rm(at, { force: true });
  }
}
