import { eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import PQueue from 'p-queue';
import { matrixMade } from '../../core/proxies/arguments';
import { sourceOfPart } from '../../core/proxies/part';
import type { Part, Trial, TryRecipe } from '../../core/proxies/shapes';
import { changesOf } from '../../core/proxies/source';
import { scaleMatrix } from '../../core/platform/matrix';
import { fps } from '../../core/platform/timecode/rate';
import { pictureOf } from '../analysis';
import { clipFootage, clipName, originalOf, soundsOf } from '../cards';
import { clips } from '../cards/tables';
import { Interrupted, NotFound } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { mkdir, rm } from '../platform/files/onDisk';
import { modifiedOf } from '../platform/files/move';
import { BESIDE_ENDS, writeBeside } from './beside';
import { makingName, makingStills, planMaking, refuseUnable } from './makeProxies';
import { makeProxy, type ProxyProgress } from './proxy';
import type { InJob } from './ports';

/** Seconds of a clip that are tried. */
const TRIED = 4;
/** How long that may take. Milliseconds; shorter in tests. */
export const trialLimits = { milliseconds: 3 * 60_000 };
/** Pixels of the width of the pictures. */
const WIDTH = 720;

/** One at a time: each uses all cores. */
const turns = new PQueue({ concurrency: 1 });

/** Makes some seconds of a clip by a recipe, out of its middle, and throws them away: how they look, how large they are, how long it took. */
export function tryRecipe(runtime: InJob, wanted: TryRecipe): Promise<Trial> {
  return turns.add(() => tryOne(runtime, wanted));
}

/** Ends the work when its time is over: then it throws how far it had come. */
async function inTime<T>(
  frames: number,
  work: (signal: AbortSignal, onProgress: (p: ProxyProgress) => void) => Promise<T>,
): Promise<T> {
  const over = new AbortController();
  let made = 0;
  const timer = setTimeout(() => {
    const soFar = `in ${trialLimits.milliseconds / 1000} s only ${made} of ${frames} frames were made`;
    over.abort(
      new Interrupted(`Trying the recipe took too long: ${soFar}.`, {
        next: 'Try it again when this computer has less to do, or on a clip with a smaller picture.',
      }),
    );
  }, trialLimits.milliseconds);
  try {
    return await work(over.signal, ({ done }) => (made = Math.round(done * frames)));
  } finally {
    clearTimeout(timer);
  }
}

async function tryOne(runtime: InJob, { clip, recipe }: TryRecipe): Promise<Trial> {
  const [row] = await runtime.db.select().from(clips).where(eq(clips.id, clip));
  if (row?.job !== runtime.job) throw new NotFound('The clip is no longer in the job.');
  const { stated, source: whole } = await planMaking(runtime, row, { recipe });
  await refuseUnable(row, recipe, stated);
  const length = Math.min(whole.frames, Math.ceil(TRIED * fps(whole.rate)));
  // What is not coded anew, and what varies, is found by its start only.
  const from = recipe.video.codec === 'copy' || whole.varies ? 0 : Math.floor((whole.frames - length) / 2);
  const part: Part = { from, to: from + length };
  const source = sourceOfPart(whole, part);
  const original = await originalOf(runtime, clip);
  const folder = makingStills(runtime);
  await mkdir(folder);
  const base = makingName(randomUUID(), 0);
  const to = joinPath(folder, `${base}.${recipe.container}`);
  try {
    const footage = await clipFootage(runtime, clip);
    const name = clipName(original, row.original);
    const beside = await writeBeside(runtime, { clip, name, statements: stated }, recipe, folder, base);
    const sounds = await soundsOf(runtime, clip);
    const begun = performance.now();
    await inTime(source.frames, (signal, onProgress) =>
      makeProxy([footage, ...sounds], to, recipe, source, {
        signal,
        onProgress,
        beside,
        part,
        waitedFor: true,
      }),
    );
    const took = (performance.now() - begun) / 1000;
    const { size } = await modifiedOf(to);
    const middle = Math.floor(length / 2);
    const made = matrixMade(source, beside);
    const picture = async (file: Parameters<typeof pictureOf>[0], n: number, frames: number, by: string) => {
      const of = { frames, rate: whole.rate, varies: whole.varies, matrix: by };
      const jpeg = await pictureOf(file, n, of, WIDTH);
      return Buffer.from(jpeg).toString('base64');
    };
    return {
      seconds: length / fps(whole.rate),
      timesRealTime: length / fps(whole.rate) / took,
      bytes: size,
      wholeBytes: Math.round((size * whole.frames) / length),
      frame: from + middle,
      original: await picture(footage, from + middle, whole.frames, whole.matrix),
      made: await picture(to, middle, length, made === null ? whole.matrix : scaleMatrix(made)),
      changes: changesOf(recipe, source),
    };
  } finally {
    for (const end of [`.${recipe.container}`, ...BESIDE_ENDS])
      await rm(joinPath(folder, `${base}${end}`), { force: true });
  }
}
