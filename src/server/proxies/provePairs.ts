import { and, eq, inArray } from 'drizzle-orm';
import {
  believed,
  chooseFacts,
  count,
  isTimeOfDay,
  numberIn,
  rateOf,
  startOf,
  pictureStream,
  reelIn,
  statementsFromProbe,
  type Statement,
} from '../../core/facts';
import { isMade, MADE_ROLES } from '../../core/intake';
import { compare, type Sampled, sampledFrames, SMALL } from '../../core/analysis';
import {
  alsoChecked,
  laterCheck,
  lostOf,
  type PairCheck,
  type PairFacts,
  partsAsOne,
  pictureChecks,
  type Proof,
  provePair,
} from '../../core/proxies/prove';
import { type Recipe, startOfMade } from '../../core/proxies/recipe';
import { factsOfPart } from '../../core/proxies/part';
import type { Compared, Part } from '../../core/proxies/shapes';
import { channelsOf } from '../../core/proxies/source';
import { decodedHashes, FfmpegFailed, type Inputs } from './run';
import { varies } from './source';
import { clips, files } from '../cards/tables';
import { pairs } from './tables';
import { Unreadable } from '../platform/errors';
import { unreadWhy } from '../platform/files/faults';
import { keepSamples, keptSamples, samplePictures, stateOf } from '../analysis';
import { resolveIn } from '../platform/files/paths';
import type { Footage } from '../platform/media/input';
import { frameTimes, probe } from '../platform/media/probe';
import {
  awayOf,
  clipFootage,
  originalOf,
  soundsOf,
  statementsOf,
  withFile,
  type Presence,
  presenceOf,
} from '../cards';
import type { InJob } from './ports';
import { alone, type TaskContext } from '../platform/work/context';
import { requireJob } from '../jobs';
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
  const facts = chooseFacts(statements.filter((s) => !isTimeOfDay(s)));
  const [width, height] = [count(facts, 'width'), count(facts, 'height')];
  const across = (width ?? 0) * (numberIn(facts, 'pixelAspect') || 1);
  const turned = (numberIn(facts, 'rotation') ?? 0) % 180 !== 0;
  return {
    frames: count(facts, 'frames'),
    rate: rateOf(facts),
    start: startOf(facts),
    channels: count(facts, 'channels'),
    shown:
      width === null || height === null
        ? null
        : turned
          ? { width: height, height: across }
          : { width: across, height },
  };
}

/** The pair facts of a proxy file: frames are counted packet by packet, not taken from its index. */
export async function proxyFacts(file: string, withTimes = false): Promise<PairFacts> {
  const output = await probe(file, { count: true });
  if (!pictureStream(output)) return { frames: null, rate: null, start: null, channels: null, shown: null };
  const facts = {
    ...pairFactsOf(statementsFromProbe(output, { zoneMinutes: 0 })),
    reel: reelIn(output),
  };
  return withTimes ? { ...facts, times: await frameTimes(file) } : facts;
}

/** What a made file is proven against. */
export interface ProvenBy {
  recipe: Recipe | null;
  wanted: PairFacts;
  /** The part of its clip that it is; null of all of it. */
  part: Part | null;
  original: () => Promise<Inputs>;
  /** The original's pictures; throws where it does not decode. */
  pictures: () => Promise<Sampled>;
  signal: AbortSignal;
}

/** Proves what a recipe made, or what another program did. */
export const proveMade = async (by: ProvenBy, file: string): Promise<Proof> =>
  proveSeen(by, provePair(by.wanted, await proxyFacts(file, by.wanted.times !== undefined)), file);

/**
 * Proves also by what both files show. Rewraps by all they decode to, picture and sound: a container can be right in every field and hold
 * what no decoder reads. Others by their pictures at the same frames.
 */
const proveSeen = async (by: ProvenBy, proof: Proof, file: string): Promise<Proof> =>
  proof.state === 'mismatched'
    ? proof
    : by.recipe?.purpose === 'rewrap'
      ? alsoChecked(proof, await decodedCheck(by, file))
      : (await picturesOf(by, file)).reduce(alsoChecked, proof);

/** Rows of a small picture that nothing is written into: name and timecode are in its foot. */
const UNWRITTEN = SMALL.height - 3;
/** Pictures that are compared of a file of many frames, for each a start of the decoder. */
const MANY = 10;

async function picturesOf({ recipe, wanted, pictures, signal }: ProvenBy, file: string) {
  const levels = recipe !== null && !recipe.look;
  // An original that is away, or does not decode, makes a pair not proven; a proxy that does not, one that does not match.
  const faultOf = (of: 'original' | 'proxy') => (e: unknown) => {
    signal.throwIfAborted();
    return { of, fault: unreadWhy(e) };
  };
  const original = await pictures().catch(faultOf('original'));
  const { rate, frames } = wanted;
  if ('fault' in original) return pictureChecks(original, levels);
  if (!rate || frames === null) return pictureChecks(null, levels);
  const every = Math.max(1, Math.round(original.frames.length / MANY));
  const some = original.frames.filter((_, i) => i % every === 0);
  const clip = { frames, rate, varies: wanted.times !== undefined };
  const other = await samplePictures(file, some, clip, signal).catch(faultOf('proxy'));
  if ('fault' in other) return pictureChecks(other, levels);
  const written = recipe?.burn.name || recipe?.burn.timecode;
  return pictureChecks(compare(original, other, written ? UNWRITTEN : undefined), levels);
}

/** Of a part only the picture: its sound is cut where its packets end. */
async function decodedCheck({ original, part, wanted, signal }: ProvenBy, file: string): Promise<PairCheck> {
  const of = part && wanted.rate ? { ...part, rate: wanted.rate } : null;
  const a = await hashesOf(await original(), signal, of);
  const b = await hashesOf([file], signal, of && { ...of, from: 0, to: of.to - of.from });
  return {
    what: 'decoded',
    result:
      'fault' in a ? 'unknown' : 'fault' in b || a.hashes.join() !== b.hashes.join() ? 'differs' : 'same',
    ...{ original: a.words, proxy: b.words },
  };
}

/**
 * The pictures a clip is known again by: those kept, else made of its original and kept. Of a part those of it, numbered from its first
 * frame. Throws Unreadable where the original does not decode.
 */
export async function samplesOf(
  runtime: InJob,
  clip: string,
  wanted: PairFacts,
  part: Part | null,
  signal?: AbortSignal,
): Promise<Sampled> {
  const { rate, frames } = wanted;
  if (!rate || frames === null) throw new Unreadable('states no rate or length');
  const about = { frames, rate, varies: varies((await statementsOf(runtime.db, [clip])).get(clip) ?? []) };
  const sample = (numbers: readonly number[]): Promise<Sampled> =>
    withFile(runtime, clip, 'original', (file) => samplePictures(file, numbers, about, signal));
  if (part) {
    const numbers = sampledFrames(part.to - part.from);
    const { pictures } = await sample(numbers.map((n) => part.from + n));
    return { frames: numbers, pictures };
  }
  const of = stateOf(await originalOf(runtime, clip));
  const kept = await keptSamples(runtime, clip, of);
  if (kept) return kept;
  const sampled = await sample(sampledFrames(frames));
  await keepSamples(runtime, clip, of, sampled);
  return sampled;
}

/** What a file decodes to, in words too; why it does not decode where it does not. */
async function hashesOf(
  inputs: Inputs,
  signal: AbortSignal,
  part: Parameters<typeof decodedHashes>[2],
): Promise<{ words: string } & ({ hashes: string[] } | { fault: true })> {
  try {
    const hashes = await decodedHashes(inputs, signal, part);
    if (hashes.length === 0) return { fault: true, words: 'nothing was decoded' };
    const words = hashes.map((h) => h.slice(0, 12)).join(' ');
    return { hashes, words: part ? `${words}, its picture` : words };
  } catch (e) {
    if (e instanceof FfmpegFailed || e instanceof Unreadable)
      return { fault: true, words: `does not decode: ${e.message}` };
    throw e;
  }
}

/** A clip as FFmpeg takes it. */
export const inputsOf = async (runtime: InJob, clip: string): Promise<Inputs> => [
  await clipFootage(runtime, clip),
  ...(await soundsOf(runtime, clip)),
];

/** What an original and its proxy were when they were proven. */
export const pairState = (
  original: Parameters<typeof stateOf>[0],
  proxy: Parameters<typeof stateOf>[0],
): string => `${stateOf(original)} ${stateOf(proxy)}`;

/** The same as they are now; null where one of them is not there. */
export const pairStateNow = (original: Presence, proxy: Presence): string | null =>
  original.is === 'there' && proxy.is === 'there' ? pairState(original, proxy) : null;

/** Proves the pairs of many clips anew, one after another. */
export async function provePairs(
  runtime: InJob,
  ids: readonly string[],
  task: TaskContext = alone(),
): Promise<Compared> {
  let [done, checked] = [0, 0];
  const once = new Set(ids);
  const left = new Map<string, number>();
  for (const id of once) {
    if (task.stopped()) break;
    const { compared, offline } = await provePairsOf(runtime, id);
    if (offline) left.set(offline.why, (left.get(offline.why) ?? 0) + 1);
    else if (compared) checked++;
    task.progress(++done, once.size);
  }
  return { checked, offline: [...left].map(([why, n]) => ({ why, clips: n })) };
}

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
  const made = MADE_ROLES.flatMap(of).map((f) => [f]);
  return whole ? [whole, ...made] : [...byCamera.map((f) => [f]), ...made];
}

async function keepProof(
  { db }: InJob,
  pair: Pick<typeof pairs.$inferInsert, 'file' | 'clip' | 'of'>,
  proof: Proof,
): Promise<void> {
  const value = { ...pair, ...proof, checkedAt: new Date() };
  await db.insert(pairs).values(value).onConflictDoUpdate({ target: pairs.file, set: value });
}

/**
 * Compares a clip's original with each of its proxies anew and stores what came of it. The original's frames are those its
 * index lists: originals are large, and one cut short was told when it was read. Without `decoding` what has to be decoded for it is left for
 * later, and the pair is not proven until then. A pair of which a file is gone is lost; one of which a file is offline, or goes away
 * meanwhile, stays as it was: returns whether any was compared, what is
 * offline, in a sentence, and whether the clip itself is.
 */
export async function provePairsOf(
  runtime: InJob,
  clipId: string,
  { decoding = true } = {},
): Promise<{ compared: boolean; offline: { why: string; ofClip: boolean } | null }> {
  const [clip] = await runtime.db
    .select()
    .from(clips)
    .where(and(eq(clips.job, runtime.job), eq(clips.id, clipId)));
  if (!clip || clip.state !== 'read') return { compared: false, offline: null };
  const family = await runtime.db
    .select()
    .from(files)
    .where(
      and(eq(files.clip, clipId), inArray(files.role, ['original', 'segment', 'cameraProxy', ...MADE_ROLES])),
    );
  const proxies = family.filter((f) => isMade(f.role) || f.role === 'cameraProxy');
  const original = family.find((f) => f.role === 'original');
  if (!original || proxies.length === 0) return { compared: false, offline: null };
  const { trust } = await requireJob(runtime);
  const stated = believed((await statementsOf(runtime.db, [clipId])).get(clipId) ?? [], trust);
  // An original that is away, or cannot be read now, holds up no other clip: its pair is not proven.
  const wanted = await wantedOf(stated, () => clipFootage(runtime, clipId)).catch((): PairFacts => ({
    ...pairFactsOf(stated),
    times: null,
  }));
  const unread = (e: unknown): Proof => ({
    state: 'mismatched',
    checks: [{ what: 'frames', result: 'differs', original: String(wanted.frames), proxy: unreadWhy(e) }],
  });
  const known = new Map(
    (await runtime.db.select().from(pairs).where(eq(pairs.clip, clipId))).map((p) => [p.file, p]),
  );
  const { signal } = new AbortController();
  const presence = async (f: FileRow) => presenceOf(await rootById(runtime, f.root), f);
  const originalNow = await presence(original);
  let compared = false;
  let offline: Awaited<ReturnType<typeof provePairsOf>>['offline'] = null;
  for (const together of takesOf(family)) {
    const now = await Promise.all(together.map(presence));
    const earlier = known.get(together[0]!.id);
    const roots = [...new Set(together.map((f) => f.root))];
    const away = async (failed: boolean): Promise<boolean> => {
      const why = (await awayOf(runtime, [clipId], failed, roots)).get(clipId);
      if (why !== undefined) offline ??= { why, ofClip: (await awayOf(runtime, [clipId])).size > 0 };
      return why !== undefined;
    };
    const notThere = [originalNow, ...now].filter((p) => p.is !== 'there');
    if (notThere.length > 0 && (await away(false))) continue;
    if (earlier && notThere.some((p) => p.is === 'offline')) {
      offline ??= { why: 'A file of it cannot be reached.', ofClip: false };
      continue;
    }
    const lost = { original: originalNow.is === 'gone', proxy: now.some((p) => p.is === 'gone') };
    const { recipe = null, part = null } = earlier ?? {};
    const all = part ? factsOfPart(startOfMade(wanted, recipe), part) : startOfMade(wanted, recipe);
    const kept = recipe ? { ...all, channels: channelsOf(recipe, { audio: [clip.audio] }) } : all;
    const prove = async (): Promise<Proof> => {
      const places = await Promise.all(
        together.map(async (f) => resolveIn(await rootById(runtime, f.root), f.path)),
      );
      const withTimes = wanted.times !== undefined && wanted.times !== null;
      const parts = await Promise.all(places.map((file) => proxyFacts(file, withTimes)));
      const proof = provePair(kept, partsAsOne(parts));
      // Chapters are told by their names, lengths and timecode.
      if (together.length > 1) return proof;
      if (!decoding) return proof.state === 'mismatched' ? proof : alsoChecked(proof, laterCheck(recipe));
      return proveSeen(
        {
          ...{ recipe, wanted: kept, part, signal },
          original: () => inputsOf(runtime, clipId),
          pictures: () => samplesOf(runtime, clipId, wanted, part, signal),
        },
        proof,
        places[0]!,
      );
    };
    const proof =
      lost.original || lost.proxy ? lostOf(earlier?.checks ?? [], lost) : await prove().catch(unread);
    // What does not match may be what a drive that was pulled in the middle no longer gave.
    const doubtful = proof.state === 'mismatched' || (decoding && proof.state === 'unproven');
    if (doubtful && (await away(proof.state === 'mismatched'))) continue;
    compared = true;
    for (const [i, proxy] of together.entries()) {
      // Of a lost one it stays known as what it was proven, should it be found again.
      const of = proof.state === 'lost' ? known.get(proxy.id)?.of : pairStateNow(originalNow, now[i]!);
      await keepProof(runtime, { file: proxy.id, clip: clipId, of: of ?? pairState(original, proxy) }, proof);
    }
  }
  runtime.events.changed('clips', 'cards');
  return { compared, offline };
}
