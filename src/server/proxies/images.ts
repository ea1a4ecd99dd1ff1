import type { Statement } from '../../core/facts';
import {
  IMAGE_DIGITS,
  IMAGE_EXTENSION,
  type ImageAbout,
  imageArguments,
  type ImageKind,
  imageTail,
  stampedImage,
} from '../../core/proxies/images';
import type { Part } from '../../core/proxies/shapes';
import type { ProxySource } from '../../core/proxies/source';
import type { DiskPath } from '../../core/platform/names';
import { only } from '../analysis';
import { Unreadable } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { mkdir, namesIn, readFile, rm, writeFile } from '../platform/files/onDisk';
import { type Footage, nameOf, withInput } from '../platform/media/input';
import { byWays, sentTo, waysTo } from '../platform/media/ways';
import { asInput, keepFrames } from '../platform/media/tools';
import { pauseWithoutRoom } from './proxy';
import { counting, FfmpegFailed, runFfmpeg } from './run';
import { foreseenOf, sourceOf } from './source';

/** What images of a clip's frames are made from. Pixels, as the picture is shown. */
export interface ImageSource {
  source: ProxySource;
  width: number;
  height: number;
}

/** What images are made from, out of what a clip states; `null` where it states no rate or length. */
export function imageSource(statements: readonly Statement[]): ImageSource | null {
  const source = sourceOf(statements, []);
  if (!source) return null;
  const { width, height } = foreseenOf(statements, 0);
  return source.rotation % 180 === 0 ? { source, width, height } : { source, width: height, height: width };
}

/**
 * Makes an image of each frame of a part in a folder of their own, which is made anew, and answers where they are, in order. Throws Unreadable
 * where there are not as many, and Halted where the folder's volume is full; aborting the signal ends FFmpeg and rejects.
 */
export async function makeImages(
  footage: Footage | DiskPath,
  { from, to }: Part,
  how: ImageSource & { kind: ImageKind; bytes: number; about: (frame: number) => ImageAbout },
  folder: DiskPath,
  signal: AbortSignal,
): Promise<DiskPath[]> {
  const { kind, source, bytes, about } = how;
  const frames = Array.from({ length: to - from }, (_, i) => from + i);
  const nameAt = (frame: number): string => imageTail(frame).slice(1);
  const failed = (why: string): Unreadable =>
    new Unreadable(`No images could be made of ${nameOf(footage)}: ${why}`);
  // Of a row of stills only those are opened.
  const { file, wanted } = only(footage, frames);
  if (wanted.length < frames.length) throw failed(`it has ${wanted.length} of ${frames.length} frames`);
  const part = { from: wanted[0]!, to: wanted.at(-1)! + 1 };
  const keep = await keepFrames();
  let number = 0;
  const made = await byWays(await waysTo(file, part, source), async ({ sent, filter }) => {
    await rm(folder, { recursive: true, force: true });
    await mkdir(folder);
    await pauseWithoutRoom(folder, bytes * frames.length);
    const making = [
      ...imageArguments(kind, source, { only: filter, frames: frames.length }, keep),
      ...['-f', 'image2', '-start_number', String(from + 1)],
      asInput(`%0${IMAGE_DIGITS}d${IMAGE_EXTENSION}`),
      ...(sent > 0 ? [] : counting.args(part.to, keep)),
    ];
    // In the folder itself: whatever its path is called, only the pattern says numbers.
    await withInput(file, ({ args }) =>
      runFfmpeg(['-n', ...sentTo(sent), ...args, ...making], {
        cwd: folder,
        signal,
        ...(sent > 0 ? {} : { pipes: counting.pipes }),
        onLine: () => undefined,
      }),
    ).catch(async (e: unknown) => {
      if (!(e instanceof FfmpegFailed)) throw e;
      await pauseWithoutRoom(folder, 0);
      // Where nothing came, and FFmpeg failed for that, there are other ways.
      if (sent === 0) throw failed(e.message);
    });
    const names = new Set(await namesIn(folder));
    number = names.size;
    return number === frames.length && frames.every((f) => names.has(nameAt(f))) ? names : null;
  });
  if (!made) throw failed(`FFmpeg made ${number} of ${frames.length} frames`);
  for (const frame of frames) {
    const at = joinPath(folder, nameAt(frame));
    await writeFile(at, stampedImage(await readFile(at), about(frame)));
  }
  return frames.map((f) => joinPath(folder, nameAt(f)));
}
