import { randomUUID } from 'node:crypto';
import { FILMSTRIP } from '../../core/analysis';
import type { DiskPath } from '../../core/platform/names';
import { isCode } from '../platform/errors';
import { readFile, rename, rm } from '../platform/files/onDisk';
import { asInput } from '../platform/media/tools';
import { decode } from './picked';
import type { Ports } from './ports';
import { cached, making } from './store';

type Home = Pick<Ports, 'home'>;

/** How FFmpeg takes the first, the middle and the last picture of a filmstrip, side by side. */
function thirds(): string {
  const { width } = FILMSTRIP;
  const left = ['0', `floor(iw/${2 * width})*${width}`, `iw-${width}`];
  const crops = left.map((x, i) => `[s${i}]crop=${width}:ih:x='${x}':y=0[c${i}]`);
  // Of a coding that halves its colours no odd height can be cut.
  return `format=yuvj444p,split=3[s0][s1][s2];${crops.join(';')};[c0][c1][c2]hstack=inputs=3,format=yuvj420p`;
}

/** Makes a clip's thirds out of its filmstrip: a sheet of many clips is drawn from what is small. */
async function makeThirds(runtime: Home, clip: string): Promise<void> {
  const strip = cached(runtime, 'filmstrips', clip);
  // Several screens may ask for them at once.
  const part = (await making(runtime, 'thirds', clip)).replace(/\.part/, `.part-${randomUUID()}`);
  const out = ['-frames:v', '1', '-q:v', '4', '-f', 'image2', '-update', '1', '-y', asInput(part)];
  try {
    await decode(strip, ['-i', asInput(strip), '-filter_complex', thirds(), ...out]);
    await rename(part, cached(runtime, 'thirds', clip));
  } finally {
    await rm(part, { force: true });
  }
}

/** Takes a filmstrip that was made at `part` for the clip's, in the place of an older one. */
export async function keepFilmstrip(runtime: Home, clip: string, part: DiskPath): Promise<void> {
  await making(runtime, 'filmstrips', clip);
  await rename(part, cached(runtime, 'filmstrips', clip));
  await rm(cached(runtime, 'thirds', clip), { force: true });
  // They are made when they are asked for, too.
  await makeThirds(runtime, clip).catch(() => undefined);
}

/** The first, the middle and the last picture of a clip side by side, as a JPEG; made now where there are none. Throws Unreadable without a filmstrip. */
export async function thirdsOf(runtime: Home, clip: string): Promise<Uint8Array> {
  const at = cached(runtime, 'thirds', clip);
  try {
    return await readFile(at);
  } catch (e) {
    if (!isCode(e, 'ENOENT')) throw e;
    await makeThirds(runtime, clip);
    return readFile(at);
  }
}
