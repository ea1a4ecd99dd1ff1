import { ExecaError } from 'execa';
import type { DiskPath } from '../../core/platform/names';
import { fps, type Rate } from '../../core/platform/timecode/rate';
import { FILMSTRIP } from '../../core/viewing/filmstrip';
import { tmpdir } from 'node:os';
import { Unreadable } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { existsSync, mkdtemp, rm, writeFile } from '../platform/files/onDisk';
import { embeddedPicture } from '../reading';
import { type Footage, nameOf, withInput } from '../platform/media/input';
import { asInput, keepFrames, lastWords, startFfmpeg } from '../platform/media/tools';

async function run(
  file: Footage | DiskPath,
  args: string[],
  options: { signal?: AbortSignal; toBuffer?: boolean; minutes?: number } = {},
): Promise<Uint8Array> {
  try {
    const result = await startFfmpeg(args, {
      encoding: 'buffer',
      timeout: (options.minutes ?? 1) * 60_000,
      maxBuffer: 64 << 20,
      forceKillAfterDelay: 2000,
      ...(options.signal ? { cancelSignal: options.signal } : {}),
    });
    return result.stdout;
  } catch (e) {
    if (e instanceof ExecaError && !e.isCanceled) {
      const words = Buffer.from(e.stderr as unknown as Uint8Array).toString('utf8');
      throw new Unreadable(`${nameOf(file)}: ${e.timedOut ? 'decoding took too long' : lastWords(words)}`);
    }
    throw e;
  }
}

/** Does work on a clip's picture or, where nothing here decodes that, on the one its file carries for a preview. */
export async function withDecodable<T>(
  clip: Footage | DiskPath,
  work: (clip: Footage | DiskPath) => Promise<T>,
): Promise<T> {
  try {
    return await work(clip);
  } catch (e) {
    const files = typeof clip === 'string' ? [clip] : clip.files;
    if (!(e instanceof Unreadable) || files.length !== 1) throw e;
    const picture = await embeddedPicture(files[0]!).catch(() => null);
    if (!picture) throw e;
    const folder = await mkdtemp(joinPath(tmpdir(), 'shelf-preview-'));
    try {
      const at = joinPath(folder, 'preview.jpg');
      await writeFile(at, picture);
      return await work(at);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
}

/** The pictures of a clip that are wanted, by number: of a row of stills only those are opened. */
function only(
  file: Footage | DiskPath,
  wanted: readonly number[],
): { file: Footage | DiskPath; wanted: readonly number[] } {
  if (typeof file === 'string' || file.kind !== 'stills') return { file, wanted };
  const files = wanted.flatMap((n) => file.files[n] ?? []);
  return { file: { ...file, files }, wanted: files.map((_, i) => i) };
}

/** Pixels made square: a JPEG is shown as if its own were. */
const SQUARE = "scale=w='iw*sar':h=ih,setsar=1";

/**
 * Frame number `frame` (from 0) of a file as a JPEG at most `width` pixels wide. Seeks to half a frame before it, so that
 * rounding of the container's clock cannot give its neighbour.
 */
export async function frameAsJpeg(
  clip: Footage | DiskPath,
  number: number,
  rate: Rate,
  width: number,
): Promise<Uint8Array> {
  const {
    file,
    wanted: [frame],
  } = only(clip, [number]);
  if (frame === undefined) throw new Unreadable(`${nameOf(clip)} has no frame ${number}.`);
  const seek = frame > 0 ? ['-ss', ((frame - 0.5) / fps(rate)).toFixed(6)] : [];
  const image = await withInput(file, ({ args, seekable }) =>
    run(file, [
      ...(seekable ? seek : []),
      ...args,
      ...(seekable ? [] : seek),
      '-map',
      '0:v:0',
      '-frames:v',
      '1',
      '-vf',
      `${SQUARE},scale='min(${width},iw)':-2`,
      '-q:v',
      '3',
      '-f',
      'mjpeg',
      'pipe:1',
    ]),
  );
  if (image.length === 0) throw new Unreadable(`${nameOf(file)} has no frame ${number}.`);
  return image;
}

/** Writes the filmstrip of a file: evenly spaced frames side by side in one JPEG, each letter-boxed to the same size. */
export async function writeFilmstrip(
  clip: Footage | DiskPath,
  frames: number,
  rate: Rate,
  to: string,
  signal?: AbortSignal,
): Promise<void> {
  const { tiles, width, height } = FILMSTRIP;
  const fit = `${SQUARE},scale=${width}:${height}:force_original_aspect_ratio=decrease:force_divisible_by=2,pad=${width}:${height}:-1:-1:color=0x1E2733,setsar=1,format=yuvj420p`;
  const keep = await keepFrames();
  const out = ['-frames:v', '1', '-q:v', '4', '-f', 'image2', '-update', '1', '-y', asInput(to)];
  const { file, wanted } = only(clip, [
    ...new Set(Array.from({ length: tiles }, (_, i) => Math.floor((i * frames) / tiles))),
  ]);
  if (frames <= 500 || typeof file !== 'string') {
    // One decode of the whole clip costs less than twenty starts of the decoder.
    const step = wanted.map((n) => `eq(n\\,${n})`).join('+');
    await withInput(file, ({ args }) =>
      run(
        file,
        [
          ...args,
          '-map',
          '0:v:0',
          '-vf',
          `select=${step},${fit},tile=${Math.max(1, wanted.length)}x1`,
          ...keep,
          ...out,
        ],
        { ...(signal ? { signal } : {}), minutes: 30 },
      ),
    );
    // FFmpeg ends well although it decoded nothing.
    if (!existsSync(to)) throw new Unreadable(`${nameOf(clip)}: no picture could be decoded`);
    return;
  }
  const graph = `${Array.from({ length: tiles }, (_, i) => `[${i}:v:0]trim=end_frame=1,${fit}[t${i}]`).join(';')};${Array.from({ length: tiles }, (_, i) => `[t${i}]`).join('')}hstack=inputs=${tiles}`;
  await withInput(file, ({ args }) => {
    const inputs = Array.from({ length: tiles }, (_, i) => [
      '-ss',
      String((i * frames) / tiles / fps(rate)),
      ...args,
    ]).flat();
    return run(file, [...inputs, '-filter_complex', graph, ...out], {
      ...(signal ? { signal } : {}),
      minutes: 10,
    });
  });
}
