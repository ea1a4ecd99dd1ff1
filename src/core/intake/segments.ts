import { type Rate, fps } from '../platform/timecode/rate';
import { cameraNumber } from './counter';
import { extensionOf } from './shape';

/** Where FAT32 ends a file (4 294 967 295 bytes), and how far below it cameras stop. Bytes. */
const FAT32 = { limit: 4_294_967_295, below: 128 << 20 };

/** What was read of one file, as far as it tells whether another follows on from it. `null` where nothing was read. */
export interface TakeEvidence {
  rate: Rate | null;
  frames: number | null;
  /** Start timecode as a frame count since midnight. */
  start: number | null;
  /** Start of the recording by the camera's clock, seconds since 1970. */
  began: number | null;
}

export interface NumberedFile {
  path: string;
  stem: string;
  size: number;
}

/**
 * Pairs of files of which the second may go on from the first: it has the next number, and the first is as large as files
 * get on this card: just short of what FAT32 holds, or as large (to 1 %) as the largest, which at least two files are.
 */
export function mayFollow<T extends NumberedFile>(files: readonly T[]): [T, T][] {
  const largest = files.reduce((most, f) => Math.max(most, f.size), 0);
  const full = (size: number): boolean => size <= FAT32.limit && size >= FAT32.limit - FAT32.below;
  const alike = files.filter((f) => f.size >= largest * 0.99);
  const atLimit = (f: T): boolean => full(f.size) || (alike.length >= 2 && f.size >= largest * 0.99);
  const byName = new Map<string, T>();
  const key = (before: string, value: number, f: T) =>
    `${f.path.slice(0, f.path.lastIndexOf('/') + 1)}\0${before}\0${value}\0${extensionOf(f.path)}`.toLowerCase();
  for (const f of files) {
    const n = cameraNumber(f.stem);
    if (n && n.after === '') byName.set(key(n.before, n.value, f), f);
  }
  return files.flatMap((a): [T, T][] => {
    const n = cameraNumber(a.stem);
    if (!n || n.after !== '' || !atLimit(a)) return [];
    const b = byName.get(key(n.before, n.value + 1, a));
    return b ? [[a, b]] : [];
  });
}

/** How far the camera's clock may be from saying that a file follows on. Seconds: clocks in files are whole seconds. */
const CLOCK_SLACK = 2;

/**
 * Whether one take goes on from another: by timecode to the frame, by the clock to two seconds. Neither may say no. A
 * camera whose timecode only runs while it records joins every take to the next, so timecode alone is not believed where
 * the clock knows of a pause.
 */
export function followsOn(a: TakeEvidence, b: TakeEvidence): boolean {
  if (!a.rate || a.frames === null || !b.rate || a.rate.num * b.rate.den !== b.rate.num * a.rate.den)
    return false;
  const byTimecode =
    a.start === null || b.start === null ? null : Math.abs(a.start + a.frames - b.start) <= 1;
  const byClock =
    a.began === null || b.began === null
      ? null
      : Math.abs(a.began + a.frames / fps(a.rate) - b.began) <= CLOCK_SLACK;
  return byTimecode !== false && byClock !== false && (byTimecode === true || byClock === true);
}
