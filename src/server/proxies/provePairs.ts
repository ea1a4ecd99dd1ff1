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
import { type PairFacts, partsAsOne, provePair } from '../../core/proxies/prove';
import { varies } from './source';
import { clips, files } from '../cards/tables';
import { pairs } from './tables';
import { messageOf } from '../platform/errors';
import { resolveIn } from '../platform/files/paths';
import type { Footage } from '../platform/media/input';
import { frameTimes, probe } from '../platform/media/probe';
import { clipFootage, statementsOf } from '../cards';
import type { InJob } from './ports';
import { alone, type TaskContext } from '../platform/work/context';
import { rootById } from '../places';

/** What a clip's proxies are proven by: its facts, and of one whose rate varies the times of its frames, read from its files. */
export async function wantedOf(
  statements: readonly Statement[],
  original: () => Promise<Footage | string>,
): Promise<PairFacts> {
  const wanted = pairFactsOf(statements);
  return varies(statements) ? { ...wanted, times: await frameTimes(await original()) } : wanted;
}

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
export async function proxyFacts(file: string, withTimes = false): Promise<PairFacts> {
  const output = await probe(file, { count: true });
  if (!pictureStream(output)) return { frames: null, rate: null, start: null, channels: null };
  const facts = pairFactsOf(statementsFromProbe(output, { zoneMinutes: 0 }));
  return withTimes ? { ...facts, times: await frameTimes(file) } : facts;
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

type Proof = ReturnType<typeof provePair>;
type FileRow = typeof files.$inferSelect;
type FamilyFile = Pick<FileRow, 'role' | 'suffix'>;

/**
 * Proxies that are compared as one: a camera makes one of each chapter of a take. Only where there is just one of every chapter, told by
 * its name, which has its chapter's number but for the first: two of the first chapter may be as long as the take.
 */
export function takesOf<F extends FamilyFile>(family: readonly F[]): F[][] {
  const of = (role: FileRow['role']): F[] =>
    family
      .filter((f) => f.role === role)
      .sort((a, b) => a.suffix.localeCompare(b.suffix, 'en', { numeric: true }));
  const byCamera = of('cameraProxy');
  const chapters = ['', ...of('segment').map((f) => f.suffix)];
  const whole =
    chapters.length > 1 && byCamera.length === chapters.length
      ? byCamera
          .map(({ suffix: end }) => chapters.map((c) => byCamera.find((f) => f.suffix === c + end)))
          .find((row) => row.every((f) => f !== undefined))
      : undefined;
  const made = of('proxy').map((f) => [f]);
  return whole ? [whole, ...made] : [...byCamera.map((f) => [f]), ...made];
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
    .where(and(eq(files.clip, clipId), inArray(files.role, ['original', 'segment', 'cameraProxy', 'proxy'])));
  const proxies = family.filter((f) => f.role === 'proxy' || f.role === 'cameraProxy');
  if (!family.some((f) => f.role === 'original') || proxies.length === 0) return;
  const stated = (await statementsOf(runtime.db, [clipId])).get(clipId) ?? [];
  // An original that is away, or cannot be read now, holds up no other clip: its pair is not proven.
  const wanted = await wantedOf(stated, () => clipFootage(runtime, clipId)).catch((): PairFacts => ({
    ...pairFactsOf(stated),
    times: null,
  }));
  const unread = (e: unknown): Proof => ({
    state: 'mismatched',
    checks: [
      {
        what: 'frames',
        result: 'differs',
        original: String(wanted.frames),
        proxy: messageOf(e),
      },
    ],
  });
  for (const together of takesOf(family)) {
    const proof = await Promise.all(
      together.map(async (f) =>
        proxyFacts(
          await resolveIn(await rootById(runtime, f.root), f.path),
          wanted.times !== undefined && wanted.times !== null,
        ),
      ),
    ).then((parts) => provePair(wanted, partsAsOne(parts)), unread);
    const value = { clip: clipId, ...proof, checkedAt: new Date() };
    for (const proxy of together)
      await runtime.db
        .insert(pairs)
        .values({ file: proxy.id, ...value })
        .onConflictDoUpdate({ target: pairs.file, set: value });
  }
  runtime.events.changed('clips', 'cards');
}
