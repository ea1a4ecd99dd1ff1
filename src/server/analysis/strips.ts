import { randomUUID } from 'node:crypto';
import { FILMSTRIP, Third } from '../../core/analysis';
import type { DiskPath } from '../../core/platform/names';
import { isCode } from '../platform/errors';
import { readFile, rename, rm } from '../platform/files/onDisk';
import { asInput } from '../platform/media/tools';
import { decode } from './picked';
import type { Ports } from './ports';
import { cached, making } from './store';

type Home = Pick<Ports, 'home'>;

/** Pictures of a clip that stand alone: a sheet of many clips is drawn from what is small. */
const PICKED: Record<Third, string> = {
  first: '0',
  middle: `floor(iw/${2 * FILMSTRIP.width})*${FILMSTRIP.width}`,
  last: `iw-${FILMSTRIP.width}`,
};

/** Makes those of a clip out of its filmstrip. */
async function makeThirds(runtime: Home, clip: string): Promise<void> {
  const strip = cached(runtime, 'filmstrips', clip);
  // Several screens may ask for them at once.
  const own = randomUUID();
  const parts = await Promise.all(
    Third.options.map(async (t) => (await making(runtime, t, clip)).replace('.part', `.part-${own}`)),
  );
  // Of a coding that halves its colours no odd height could be cut.
  const graph = Third.options.map(
    (t, i) => `[s${i}]crop=${FILMSTRIP.width}:ih:x='${PICKED[t]}':y=0,format=yuvj420p[c${i}]`,
  );
  const outputs = parts.flatMap((part, i) => [
    ...[
      '-map',
      `[c${i}]`,
      '-frames:v',
      '1',
      '-q:v',
      '4',
      '-f',
      'image2',
      '-update',
      '1',
      '-y',
      asInput(part),
    ],
  ]);
  try {
    await decode(strip, [
      // By its extension alone its name would be taken for a pattern of many, in which “%03d” stands for numbers.
      ...[
        '-f',
        'jpeg_pipe',
        '-i',
        asInput(strip),
        '-filter_complex',
        `format=yuvj444p,split=3[s0][s1][s2];${graph.join(';')}`,
      ],
      ...outputs,
    ]);
    for (const [i, t] of Third.options.entries()) await rename(parts[i]!, cached(runtime, t, clip));
  } finally {
    for (const part of parts) await rm(part, { force: true });
  }
}

/** Takes a filmstrip that was made at `part` for the clip's, in the place of an older one. */
export async function keepFilmstrip(runtime: Home, clip: string, part: DiskPath): Promise<void> {
  await making(runtime, 'filmstrips', clip);
  await rename(part, cached(runtime, 'filmstrips', clip));
  for (const made of [...Third.options, 'posters'] as const)
    await rm(cached(runtime, made, clip), { force: true });
  // They are made when they are asked for, too.
  await makeThirds(runtime, clip).catch(() => undefined);
}

/** One of the pictures of a clip's filmstrip, as a JPEG; made now where there is none. Throws Unreadable without a filmstrip. */
export async function thirdOf(runtime: Home, clip: string, third: Third): Promise<Uint8Array> {
  const at = cached(runtime, third, clip);
  try {
    return await readFile(at);
  } catch (e) {
    if (!isCode(e, 'ENOENT')) throw e;
    await makeThirds(runtime, clip);
    return readFile(at);
  }
}

/** The middle of a clip as one picture, as a JPEG: its poster, which is twice as wide, where a proxy was made of it. Throws Unreadable where there is neither. */
export const posterOf = (runtime: Home, clip: string): Promise<Uint8Array> =>
  readFile(cached(runtime, 'posters', clip)).catch(() => thirdOf(runtime, clip, 'middle'));
