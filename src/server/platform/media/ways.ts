import type { DiskPath } from '../../../core/platform/names';
import { fps, type Rate } from '../../../core/platform/timecode/rate';
import { stat } from '../files/onDisk';
import type { Footage } from './input';
import { type FirstPicture, firstPicture, framesInIndex, frameTimes } from './probe';

// FFmpeg, sent to a time, may come out somewhere else: in streams without an index behind it, and in open groups of pictures at the next key
// frame. So each way to a frame lets through exactly the frames that are meant, by when they are shown, or none at all; then the next way is
// tried, and the last one counts from the first frame.

/** A part of a clip. Frames, from 0; `to` is the one after the last. */
interface Frames {
  from: number;
  to: number;
}

/** One way to a part of a clip. */
export interface Way {
  /** Seconds from the container's start that FFmpeg is sent to: times of its filters count from there. 0: nowhere, and there is no other way after it. */
  sent: number;
  /** Its filter, the first of all, that lets only the part through. */
  filter: string;
}

/** FFmpeg's option before an input that it is sent into. */
export const sentTo = (sent: number): string[] => (sent > 0 ? ['-ss', sent.toFixed(6)] : []);

/** Seconds before a part that FFmpeg is sent to where it did not find it the first time. */
const FURTHER = [2, 10];

/** What is asked of a file, remembered for so many of them as long as they stay what they are. */
function remembered<T>(most: number, ask: (file: DiskPath) => Promise<T>): (file: DiskPath) => Promise<T> {
  const known = new Map<string, Promise<T>>();
  return async (file) => {
    const { size, mtimeMs } = await stat(file);
    const key = [file, size, mtimeMs].join('\0');
    const found = known.get(key);
    if (found) return found;
    const asked = ask(file);
    known.set(key, asked);
    // It may be read the next time.
    asked.catch(() => known.delete(key));
    if (known.size > most) known.delete(known.keys().next().value!);
    return asked;
  };
}
const EACH: FirstPicture = { at: 0, delay: 0, timed: true };
const firstOf = remembered(1000, firstPicture);
const timesOf = remembered(20, frameTimes);
const framesOf = remembered(1000, framesInIndex);

/** The way that counts from the first frame. */
const counting = ({ from, to }: Frames): Way => ({
  sent: 0,
  filter: `trim=start_frame=${from}:end_frame=${to}`,
});

/** A frame of a take in one of its files: its number there, of how many. */
interface InFile {
  file: DiskPath;
  frame: number;
  frames: number;
}

/** In which of a take's files a frame is; null where that is not told by how many frames each says it has. Numbered stills are no take. */
export async function inFile({ kind, files }: Footage, frame: number): Promise<InFile | null> {
  if (kind === 'stills') return null;
  let left = frame;
  for (const file of files) {
    const frames = await framesOf(file).catch(() => null);
    if (frames === null) return null;
    if (left < frames) return { file, frame: left, frames };
    left -= frames;
  }
  return null;
}

/** The ways to a part of a clip, the quickest first; one that counts is the last, and the only one to a take in several files. */
export async function waysTo(
  clip: Footage | DiskPath,
  part: Frames,
  { rate, varies = false }: { rate: Rate; varies?: boolean },
): Promise<Way[]> {
  const { files, kind } = typeof clip === 'string' ? { files: [clip], kind: null } : clip;
  if (part.from === 0 || (files.length > 1 && kind !== 'stills')) return [counting(part)];
  const [file] = files as [DiskPath];
  // Numbered stills are at the times of their numbers, and each stands alone.
  const first = kind === 'stills' ? EACH : await firstOf(file).catch(() => null);
  const times = varies ? await timesOf(file).catch(() => null) : null;
  if (!first?.timed || (varies && !times)) return [counting(part)];
  const { at, delay } = first;
  const long = 1 / fps(rate);
  /** Between a frame and the one before it. */
  const before = (n: number): number => {
    if (!times) return at + (n - 0.5) * long;
    const [a, b] = [times[n - 1], times[n]];
    return a === undefined || b === undefined ? at + times.at(-1)! + 0.5 * long : at + (a + b) / 2;
  };
  const [start, second, end] = [before(part.from), before(part.from + 1), before(part.to)];
  // What is shown before a key frame and decoded after it needs the group before.
  const least = delay === 0 ? 0 : (delay + 2) * long;
  const ways = [least, ...FURTHER]
    .map((earlier) => start - earlier)
    .filter((sent) => sent > 0)
    .map((sent) => ({
      sent,
      // All of it where its first frame or an earlier one comes first.
      filter: `trim=end=${(end - sent).toFixed(6)},select=gte(t\\,${(start - sent).toFixed(6)})*lt(start_t\\,${(second - sent).toFixed(6)})`,
    }));
  return [...ways, counting(part)];
}

/** Does work by the first way to a part that it finds frames by: null is none. Returns null where there are none by any. */
export async function byWays<T>(
  ways: readonly Way[],
  work: (way: Way) => Promise<T | null>,
): Promise<T | null> {
  for (const way of ways) {
    const done = await work(way);
    if (done !== null) return done;
  }
  return null;
}
