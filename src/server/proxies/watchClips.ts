import { and, eq } from 'drizzle-orm';
import { countOf } from '../../core/choose';
import { believed, briefOf, chooseFacts, text } from '../../core/facts';
import { LIGHT } from '../../core/proxies/recipe';
import type { WatchedThrough } from '../../core/proxies/shapes';
import { analysisOf, keepSeen, stateOf } from '../analysis';
import { originalOf, type Presence, presenceOf, soundsOf, statementsOf, withFile } from '../cards';
import { clips } from '../cards/tables';
import { requireJob } from '../jobs';
import { rootById } from '../places';
import { NotFound, Refused, Unreadable } from '../platform/errors';
import { mkdir, rm } from '../platform/files/onDisk';
import { endIfStopped } from '../platform/work/context';
import type { WorkContext } from '../platform/work/kinds';
import { audioOf, keepAll, makingName, makingStills, planMaking, stillsAt } from './makeProxies';
import type { InJob } from './ports';
import { listenThrough, type ProxyProgress, type SoundSource, watchThrough } from './proxy';
import type { Inputs } from './run';

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
  // It counts as of the file that was read: of another nothing was seen.
  const unchanged = async (): Promise<void> => {
    const now = await presenceNow(runtime, id);
    if (now.is !== 'there' || stateOf(now) !== of)
      throw new Unreadable(`${row.original} has changed since it was read: read its card again.`);
  };
  const options = { signal, onProgress: (p: ProxyProgress) => tell(p.done, p.speed) };
  const through = <T>(work: (inputs: Inputs) => Promise<T>): Promise<T> =>
    withFile(runtime, id, 'original', async (file) => work([file, ...(await soundsOf(runtime, id))]));
  if (row.kind === 'sound') {
    const source = await soundSourceOf(runtime, row);
    const heard = await through((inputs) => listenThrough(inputs, source, options));
    await unchanged();
    await keepSeen(runtime, id, of, { ...heard, sampled: null });
    runtime.events.changed('clips');
    return heard.analysis.findings.length;
  }
  const { source } = await planMaking(runtime, row, { recipe: LIGHT });
  await mkdir(makingStills(runtime));
  const stills = stillsAt(runtime, makingName(work, attempt));
  try {
    const seen = await through((inputs) => watchThrough(inputs, source, stills, options));
    await unchanged();
    await keepAll(runtime, id, of, seen, stills);
    runtime.events.changed('clips');
    return seen.analysis.findings.length;
  } finally {
    for (const at of [stills.filmstrip, stills.poster]) await rm(at, { force: true });
  }
}

/** What a recording of sound is listened to by. Its stretches are counted as those that a person marks. */
async function soundSourceOf(runtime: InJob, row: typeof clips.$inferSelect): Promise<SoundSource> {
  const { trust } = await requireJob(runtime);
  const facts = chooseFacts(believed((await statementsOf(runtime.db, [row.id])).get(row.id) ?? [], trust));
  const brief = briefOf(facts);
  const counted = countOf({ ...brief, kind: row.kind });
  if (!counted) throw new Unreadable(`${row.original} states no length.`);
  const exact = text(facts, 'audioCodec')?.startsWith('PCM') ? brief.seconds : null;
  return { audio: await audioOf(runtime, row), frames: counted.frames, rate: counted.rate, exact };
}
