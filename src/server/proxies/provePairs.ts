import { and, eq, inArray } from 'drizzle-orm';
import {
  chooseFacts,
  count,
  rateOf,
  startOf,
  pictureStream,
  statementsFromProbe,
  type Statement,
} from '../../core/facts';
import { type PairFacts, provePair } from '../../core/proxies/prove';
import { clips, files } from '../cards/tables';
import { pairs } from './tables';
import { messageOf } from '../platform/errors';
import { resolveIn } from '../platform/files/paths';
import { probe } from '../platform/media/probe';
import { statementsOf } from '../cards';
import type { InJob } from './ports';
import { alone, type TaskContext } from '../platform/work/context';
import { rootById } from '../places';

/** What a pair is proven by, out of a clip's statements. The clock's stand-in for a timecode is none. */
export function pairFactsOf(statements: readonly Statement[]): PairFacts {
  const facts = chooseFacts(statements.filter((s) => s.source !== 'clock'));
  return {
    frames: count(facts, 'frames'),
    rate: rateOf(facts),
    start: startOf(facts),
    channels: count(facts, 'channels'),
  };
}

/** The pair facts of a proxy file: frames are counted packet by packet, not taken from its index. */
export async function proxyFacts(file: string): Promise<PairFacts> {
  const output = await probe(file, { count: true });
  if (!pictureStream(output)) return { frames: null, rate: null, start: null, channels: null };
  return pairFactsOf(statementsFromProbe(output, { zoneMinutes: 0 }));
}

/** Proves the pairs of many clips anew, one after another. */
export async function provePairs(
  runtime: InJob,
  ids: readonly string[],
  task: TaskContext = alone(),
): Promise<{ checked: number }> {
  let checked = 0;
  for (const id of ids) {
    if (task.stopped()) break;
    await provePairsOf(runtime, id);
    task.progress(++checked, ids.length);
  }
  return { checked };
}

/**
 * Compares a clip's original with each of its proxies anew and stores what came of it. The original's frames are those its
 * index lists: originals are large, and one cut short was told when it was read.
 */
export async function provePairsOf(runtime: InJob, clipId: string): Promise<void> {
  const [clip] = await runtime.db
    .select()
    .from(clips)
    .where(and(eq(clips.job, runtime.job), eq(clips.id, clipId)));
  if (!clip || clip.state !== 'read') return;
  const family = await runtime.db
    .select()
    .from(files)
    .where(and(eq(files.clip, clipId), inArray(files.role, ['original', 'cameraProxy', 'proxy'])));
  const original = family.find((f) => f.role === 'original');
  const proxies = family.filter((f) => f.role !== 'original');
  if (!original || proxies.length === 0) return;
  const facts = pairFactsOf((await statementsOf(runtime.db, [clipId])).get(clipId) ?? []);
  for (const proxy of proxies) {
    const row = await resolveIn(await rootById(runtime, proxy.root), proxy.path)
      .then(proxyFacts)
      .then(
        (p) => provePair(facts, p),
        (e: unknown) => ({
          state: 'mismatched' as const,
          checks: [
            {
              what: 'frames' as const,
              result: 'differs' as const,
              original: String(facts.frames),
              proxy: messageOf(e),
            },
          ],
        }),
      );
    const value = { clip: clipId, ...row, checkedAt: new Date() };
    await runtime.db
      .insert(pairs)
      .values({ file: proxy.id, ...value })
      .onConflictDoUpdate({ target: pairs.file, set: value });
  }
  runtime.events.changed('clips', 'cards');
}
