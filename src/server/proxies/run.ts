import { ExecaError } from 'execa';
import type { Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import { fromFrame } from '../../core/proxies/arguments';
import type { Part } from '../../core/proxies/shapes';
import type { Rate } from '../../core/platform/timecode/rate';
import type { DiskPath } from '../../core/platform/names';
import { Unreadable } from '../platform/errors';
import { type Footage, nameOf, withInput } from '../platform/media/input';
import { byWays, sentTo, waysTo } from '../platform/media/ways';
import { keepFrames, lastWords, readNoFurther, startFfmpeg } from '../platform/media/tools';

/** How long FFmpeg may make no further picture. Milliseconds; shorter in tests. */
export const proxyLimits = { milliseconds: 10 * 60_000 };

/** What FFmpeg works on: the picture first, then the files that its sound is apart in. */
export type Inputs = readonly [Footage | string, ...string[]];

/** Opens one after another, and gives FFmpeg's arguments for all of them. `seek`: what comes before each, by its number. */
export const withInputs = <T>(
  [first, ...rest]: readonly (Footage | string)[],
  work: (args: string[]) => Promise<T>,
  seek: (input: number) => readonly string[] = () => [],
): Promise<T> =>
  first === undefined
    ? work([])
    : withInput(first, ({ args }) =>
        withInputs(
          rest,
          (more) => work([...seek(0), ...args, ...more]),
          (n) => seek(n + 1),
        ),
      );

/** FFmpeg's own reason for having ended, or that it was stuck. */
export class FfmpegFailed extends Error {}

/** The number of the first pipe besides those every program has. */
export const FIRST_PIPE = 3;

/**
 * Runs FFmpeg to its end, giving each line it writes to its output, and what it writes to further pipes, numbered from `FIRST_PIPE`. One that makes no further picture for too long is stuck, or its drive has
 * gone: it is ended. It goes behind all else, but where a person waits for it. Throws FfmpegFailed, or what the signal was aborted with.
 */
export async function runFfmpeg(
  args: readonly string[],
  options: {
    cwd?: string;
    signal: AbortSignal;
    onLine: (line: string) => void;
    pipes?: readonly ((bytes: Uint8Array) => void)[];
    waitedFor?: boolean;
  },
): Promise<void> {
  const { pipes = [], waitedFor = false } = options;
  const run = startFfmpeg(
    ['-progress', 'pipe:1', ...args],
    {
      ...(options.cwd === undefined ? {} : { cwd: options.cwd }),
      cancelSignal: options.signal,
      stdio: ['ignore', 'pipe', 'pipe', ...pipes.map(() => 'pipe' as const)],
      buffer: { stdout: false, stderr: true, all: false, ...unbuffered(pipes.length) },
      maxBuffer: 1 << 20,
    },
    !waitedFor,
  );
  let at = performance.now();
  // What is in a pipe may be read after FFmpeg has ended.
  const piped = pipes.map((take, i) =>
    finished(
      (run.stdio[FIRST_PIPE + i] as Readable).on('data', (bytes: Uint8Array) => {
        at = performance.now();
        take(bytes);
      }),
    ),
  );
  // One that breaks off with FFmpeg is heard of below.
  for (const p of piped) p.catch(() => undefined);
  const known = new Map<string, string>();
  const watch = setInterval(() => {
    if (performance.now() - at > proxyLimits.milliseconds) run.kill('SIGKILL');
  }, proxyLimits.milliseconds / 10);
  const reading = (async () => {
    for await (const line of run.iterable({ from: 'stdout' })) {
      const text = String(line);
      // Each by itself: that both are told again and again is no progress.
      const [, what, now] = /^(frame|out_time_us)=\s*(\d+)/.exec(text) ?? [];
      if (what !== undefined && known.get(what) !== now) {
        known.set(what, now!);
        at = performance.now();
      }
      options.onLine(text);
    }
  })();
  try {
    const { stderr } = await run;
    await Promise.all([reading, ...piped]);
    const cut = readNoFurther(String(stderr));
    if (cut !== null) throw new FfmpegFailed(`it cannot be read to its end: ${cut}`);
  } catch (e) {
    await Promise.allSettled([reading, ...piped]);
    if (!(e instanceof ExecaError)) throw e;
    if (e.isCanceled) throw options.signal.reason;
    const stuck = performance.now() - at > proxyLimits.milliseconds;
    throw new FfmpegFailed(
      stuck ? `FFmpeg made no picture for ${proxyLimits.milliseconds / 1000} s` : lastWords(e.stderr),
    );
  } finally {
    clearInterval(watch);
  }
}

/** Frames after which it is told that counting goes on. */
const TOLD = 25;

/**
 * While FFmpeg counts the frames up to a part it makes none, and tells of no progress before its first: a few pixels of some frames, given
 * to the first pipe, show that it goes on.
 */
export const counting = {
  args: (to: number, keep: readonly string[]): string[] => [
    ...['-map', '0:v:0', '-vf'],
    `trim=end_frame=${to},select='not(mod(n\\,${TOLD}))',scale=2:2,format=gray`,
    ...[...keep, '-flush_packets', '1', '-f', 'rawvideo', `pipe:${FIRST_PIPE}`],
  ],
  pipes: [() => undefined],
};

const unbuffered = (pipes: number): Record<`fd${number}`, false> =>
  Object.fromEntries(Array.from({ length: pipes }, (_, i) => [`fd${FIRST_PIPE + i}`, false]));

/** How FFmpeg comes to a frame, and to the sound beside it. Seconds. */
export interface FoundFrame {
  /** Where it is sent to, from the container's start; 0: nowhere. */
  sent: number;
  /** When the frame is shown, from there. */
  shown: number;
}

/** Ticks a second in which it is told when a frame is shown. */
const TICKS = 90_000;

/** Finds a frame by decoding it. Throws Unreadable where there is none, FfmpegFailed, or what the signal was aborted with. */
export async function findFrame(
  clip: Footage | DiskPath,
  frame: number,
  of: { rate: Rate },
  { signal, waitedFor = false }: { signal: AbortSignal; waitedFor?: boolean },
): Promise<FoundFrame> {
  const ways = await waysTo(clip, { from: frame, to: frame + 1 }, of);
  const keep = await keepFrames();
  const found = await byWays(ways, async ({ sent, filter }) => {
    let shown: number | null = null;
    const told = ['-enc_time_base', `1/${TICKS}`, '-f', 'framehash', '-hash', 'adler32', 'pipe:1'];
    await withInput(clip, ({ args }) =>
      runFfmpeg(
        [
          ...[...sentTo(sent), ...args, '-map', '0:v:0', '-vf', filter, ...keep, ...told],
          ...(sent > 0 ? [] : counting.args(frame + 1, keep)),
        ],
        {
          ...{ signal, waitedFor },
          ...(sent > 0 ? {} : { pipes: counting.pipes }),
          onLine: (line) => {
            const at = /^0,\s*-?\d+,\s*(-?\d+),/.exec(line)?.[1];
            if (at !== undefined) shown ??= Number(at) / TICKS;
          },
        },
      ),
    ).catch((e: unknown) => {
      // Where nothing came, and FFmpeg failed for that, there are other ways.
      if (!(e instanceof FfmpegFailed) || (sent === 0 && shown === null)) throw e;
    });
    return shown === null ? null : { sent, shown };
  });
  if (!found) throw new Unreadable(`${nameOf(clip)} has no frame ${frame}.`);
  return found;
}

/** MD5 of what each stream of picture and sound decodes to, in order; of a part only that of its picture. Throws FfmpegFailed, or Unreadable where there is no such part. */
export async function decodedHashes(
  inputs: Inputs,
  signal: AbortSignal,
  part: (Part & { rate: Rate }) | null = null,
): Promise<string[]> {
  const hashes: string[] = [];
  const keep = await keepFrames();
  const streams = part ? [] : inputs.flatMap((_, i) => ['-map', `${i}:a?`]);
  const begins = part && part.from > 0 ? await findFrame(inputs[0], part.from, part, { signal }) : null;
  const frames = part ? ['-frames:v', String(part.to - part.from)] : [];
  const counts = part !== null && begins?.sent === 0;
  const from = begins && part ? ['-vf', fromFrame(begins.shown, part)] : [];
  await withInputs(
    part ? [inputs[0]] : inputs,
    (args) =>
      runFfmpeg(
        [
          ...args,
          ...['-map', '0:v:0', ...streams, ...from, ...frames],
          ...['-c:v', 'rawvideo', '-c:a', 'pcm_s32le', '-f', 'streamhash', '-hash', 'md5', 'pipe:1'],
          ...(counts ? counting.args(part.to, keep) : []),
        ],
        {
          signal,
          ...(counts ? { pipes: counting.pipes } : {}),
          onLine: (line) => {
            const hash = /^\d+,[va],MD5=([0-9a-f]{32})/.exec(line)?.[1];
            if (hash !== undefined) hashes.push(hash);
          },
        },
      ),
    () => sentTo(begins?.sent ?? 0),
  );
  return hashes;
}
