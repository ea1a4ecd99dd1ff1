import { ExecaError } from 'execa';
import type { DiskPath } from '../../core/platform/names';
import { toJpeg } from '../../core/platform/matrix';
import type { Rate } from '../../core/platform/timecode/rate';
import { FILMSTRIP, type Sampled, sampledFrames, SMALL } from '../../core/analysis';
import { tmpdir } from 'node:os';
import { Unreadable } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { mkdtemp, rm, writeFile } from '../platform/files/onDisk';
import { embeddedPicture } from '../reading';
import { type Footage, nameOf, withInput } from '../platform/media/input';
import { sentTo, waysTo } from '../platform/media/ways';
import { keepFrames, lastWords, readNoFurther, startFfmpeg } from '../platform/media/tools';

interface Decoding {
  signal?: AbortSignal;
  minutes?: number;
  /** Takes what is decoded piece by piece: of sound there may be more than memory has room for. Then nothing is returned. */
  take?: (bytes: Uint8Array) => void;
  /** Whether what else is done goes first. */
  behind?: boolean;
}

/** Runs FFmpeg on a clip for a picture or some, or for its sound. Throws Unreadable with its own reason. */
export async function decode(
  file: Footage | DiskPath,
  args: string[],
  { signal, minutes = 1, take, behind = false }: Decoding = {},
): Promise<Uint8Array> {
  try {
    const run = startFfmpeg(
      args,
      {
        encoding: 'buffer',
        buffer: { stdout: !take, stderr: true },
        timeout: minutes * 60_000,
        maxBuffer: 64 << 20,
        forceKillAfterDelay: 2000,
        ...(signal ? { cancelSignal: signal } : {}),
      },
      behind,
    );
    if (take) for await (const bytes of run.stdout) take(bytes as Uint8Array);
    const { stdout, stderr } = await run;
    const cut = readNoFurther(Buffer.from(stderr).toString('utf8'));
    if (cut !== null) throw new Unreadable(`${nameOf(file)} cannot be read to its end: ${cut}`);
    return stdout ?? new Uint8Array(0);
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
export function only(
  file: Footage | DiskPath,
  wanted: readonly number[],
): { file: Footage | DiskPath; wanted: readonly number[] } {
  if (typeof file === 'string' || file.kind !== 'stills') return { file, wanted };
  const files = wanted.flatMap((n) => file.files[n] ?? []);
  return { file: { ...file, files }, wanted: files.map((_, i) => i) };
}

/** Pixels made square: a JPEG is shown as if its own were. */
const SQUARE = "scale=w='iw*sar':h=ih,setsar=1";

/** How FFmpeg letter-boxes a picture to a size, whatever its shape. */
const boxed = (width: number, height: number, matrix: string): string =>
  `${SQUARE},scale=${width}:${height}:force_original_aspect_ratio=decrease:force_divisible_by=2:${toJpeg(matrix)},pad=${width}:${height}:-1:-1:color=0x1E2733,setsar=1,format=yuvj420p`;
/** How it makes one picture of a filmstrip. */
export const stripFit = (matrix: string): string => boxed(FILMSTRIP.width, FILMSTRIP.height, matrix);
/** How it makes a poster: twice as large, as one picture of a clip is shown and printed. */
export const posterFit = (matrix: string): string => boxed(2 * FILMSTRIP.width, 2 * FILMSTRIP.height, matrix);
/** How FFmpeg makes a JPEG at most so wide. */
export const pictureFit = (width: number, matrix: string): string =>
  `${SQUARE},scale='min(${width},iw)':-2:${toJpeg(matrix)},format=yuvj420p|yuvj422p|yuvj444p`;
/** How FFmpeg makes a picture small, to be compared. */
export const SMALL_FIT = `scale=${SMALL.width}:${SMALL.height}:flags=area:out_range=full,format=gray`;

/** Frames by number, for FFmpeg's filter that lets only some through. */
export const selected = (frames: readonly number[]): string =>
  `select=${frames.map((n) => `eq(n\\,${n})`).join('+')}`;

/** Clips of so many frames are decoded as a whole: that costs less than many starts of the decoder. */
const SHORT = 500;

/** What of a clip is wanted as a row of pictures. */
interface Wanted {
  frames: readonly number[];
  /** How long the clip is, and its rate; `varies`: frames are at uneven times. `matrix`: that of its picture for FFmpeg's scaler, where its decoder does not know better. */
  clip: { frames: number; rate: Rate; varies?: boolean; matrix?: string };
  /** FFmpeg's filters for each picture. */
  fit: string;
  signal?: AbortSignal | undefined;
}

/** Frames of a clip side by side in one picture, which goes into FFmpeg's standard output as `out` says; nothing where they do not all decode. */
async function inRow(
  clip: Footage | DiskPath,
  { frames, clip: { frames: length, rate, varies = false }, fit, signal }: Wanted,
  out: readonly string[],
): Promise<Uint8Array> {
  const { file, wanted } = only(clip, frames);
  const options = signal ? { signal } : {};
  const counted = async (): Promise<Uint8Array> => {
    const keep = await keepFrames();
    const filter = `${selected(wanted)},${fit},tile=${Math.max(1, wanted.length)}x1`;
    return withInput(file, ({ args }) =>
      decode(file, [...args, '-map', '0:v:0', '-vf', filter, ...keep, '-frames:v', '1', ...out, 'pipe:1'], {
        ...options,
        minutes: 30,
      }),
    );
  };
  if (length <= SHORT || typeof file !== 'string') return counted();
  const all = await Promise.all(frames.map((n) => waysTo(file, { from: n, to: n + 1 }, { rate, varies })));
  for (let turn = 0; turn < Math.max(...all.map((w) => w.length)) - 1; turn++) {
    const ways = all.map((w) => w[Math.min(turn, w.length - 1)]!);
    const single = (i: number): string => `[${i}:v:0]${ways[i]!.filter},${fit}`;
    // One picture has nothing to be put beside.
    const graph =
      frames.length === 1
        ? single(0)
        : `${frames.map((_, i) => `${single(i)}[t${i}]`).join(';')};${frames.map((_, i) => `[t${i}]`).join('')}hstack=inputs=${frames.length}`;
    const row = await withInput(file, ({ args }) =>
      decode(
        file,
        [
          ...ways.flatMap(({ sent }) => [...sentTo(sent), ...args]),
          ...['-filter_complex', graph, '-frames:v', '1', ...out, 'pipe:1'],
        ],
        { ...options, minutes: 10 },
      ),
    ).catch((e: unknown) => {
      // Where nothing came, and FFmpeg failed for that, there are other ways.
      if (e instanceof Unreadable) return new Uint8Array(0);
      throw e;
    });
    if (row.length > 0) return row;
  }
  return counted();
}

/** Writes the filmstrip of a file: evenly spaced frames side by side in one JPEG. */
export async function writeFilmstrip(
  clip: Footage | DiskPath,
  of: Wanted['clip'],
  to: string,
  signal?: AbortSignal,
): Promise<void> {
  const wanted = { frames: sampledFrames(of.frames), clip: of, fit: stripFit(of.matrix ?? 'auto'), signal };
  const jpeg = await inRow(clip, wanted, ['-q:v', '4', '-f', 'mjpeg']);
  // FFmpeg ends well although it decoded nothing.
  if (jpeg.length === 0) throw new Unreadable(`${nameOf(clip)}: no picture could be decoded`);
  await writeFile(to, jpeg);
}

/** One frame of a file as a JPEG, at most `width` pixels wide. Throws Unreadable where it does not decode. */
export const pictureOf = (
  clip: Footage | DiskPath,
  frame: number,
  of: Wanted['clip'],
  width: number,
): Promise<Uint8Array> =>
  inRow(clip, { frames: [frame], clip: of, fit: pictureFit(width, of.matrix ?? 'auto') }, [
    '-q:v',
    '3',
    '-f',
    'mjpeg',
  ]);

/** Frames of a file, small, to be compared with those of another. Throws Unreadable where they do not decode. */
export async function samplePictures(
  clip: Footage | DiskPath,
  frames: readonly number[],
  of: Wanted['clip'],
  signal?: AbortSignal,
): Promise<Sampled> {
  const row = await inRow(clip, { frames, clip: of, fit: SMALL_FIT, signal }, ['-f', 'rawvideo']);
  const { width, height } = SMALL;
  if (row.length !== frames.length * width * height)
    throw new Unreadable(`${nameOf(clip)}: no picture could be decoded`);
  const pictures = frames.map((_, i) =>
    Uint8Array.from(
      { length: width * height },
      (_, p) => row[Math.floor(p / width) * frames.length * width + i * width + (p % width)]!,
    ),
  );
  return { frames: [...frames], pictures };
}
