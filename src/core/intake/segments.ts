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
  // A clip's own folder bears its name: the folder of the clip that goes on is beside it.
  const beside = (f: T): string => f.path.slice(0, f.path.lastIndexOf('/') + 1).replaceAll(f.stem, '*');
  const largest = files.reduce((most, f) => Math.max(most, f.size), 0);
  const full = (size: number): boolean => size <= FAT32.limit && size >= FAT32.limit - FAT32.below;
  const alike = files.filter((f) => f.size >= largest * 0.99);
  const atLimit = (f: T): boolean => full(f.size) || (alike.length >= 2 && f.size >= largest * 0.99);
  const byName = new Map<string, T>();
  const key = (before: string, value: number, f: T) =>
    `${beside(f)}\0${before}\0${value}\0${extensionOf(f.path)}`.toLowerCase();
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
/** How long a file has to be for the clock to tell a take that goes on from one that was begun right after it. Seconds. */
const CLOCK_TELLS = 10;

/**
 * Whether one take goes on from another: by timecode to the frame, by the clock to two seconds, unless the file is not much longer than
 * that. Neither may say no. A camera whose timecode only runs while it records joins every take to the next, so timecode alone is not
 * believed where the clock knows of a pause.
 */
export function followsOn(a: TakeEvidence, b: TakeEvidence): boolean {
  const said = continues(a, b);
  return said !== null && !said.includes(false) && said.includes(true);
}

/** Whether timecode and clock of a file go on from another's, `null` each where one of the two does not say; `null` where their rates differ. */
function continues(a: TakeEvidence, b: TakeEvidence): (boolean | null)[] | null {
  if (!a.rate || a.frames === null || !b.rate || a.rate.num * b.rate.den !== b.rate.num * a.rate.den)
    return null;
  const seconds = a.frames / fps(a.rate);
  const byClock =
    a.began === null || b.began === null ? null : Math.abs(a.began + seconds - b.began) <= CLOCK_SLACK;
  return [
    a.start === null || b.start === null ? null : Math.abs(a.start + a.frames - b.start) <= 1,
    byClock && seconds < CLOCK_TELLS ? null : byClock,
  ];
}

/** A take in chapters that are numbered in their names, in order. */
export interface Chapters<T> {
  files: T[];
  /** Names of chapters that are not there. */
  missing: string[];
  /** Whether such names are also given to other things, scenes for one: reading has to say that these are chapters. */
  unsure: boolean;
}

interface Counted {
  take: string;
  chapter: number;
  /** The name of another chapter of the take. */
  name: (chapter: number) => string;
  unsure: boolean;
}

/**
 * How a name counts chapters: "WX020123" has two digits of chapter before the four of the take, where the first may be
 * "WHAL0123" with four letters, and "02_T0123" has them at the front. Common practice.
 */
function chapterOf(stem: string): Counted | null {
  const two = (n: number) => String(n).padStart(2, '0');
  const middle = /^([A-Z]{2})(\d\d)(\d{4})$/i.exec(stem);
  if (middle)
    return {
      take: `${middle[1]![0]!}*${middle[3]!}`.toUpperCase(),
      chapter: Number(middle[2]),
      name: (n) => middle[1]! + two(n) + middle[3]!,
      unsure: false,
    };
  const first = /^([A-Z])[A-Z]{3}(\d{4})$/i.exec(stem);
  if (first)
    return {
      take: `${first[1]!}*${first[2]!}`.toUpperCase(),
      chapter: 0,
      name: () => stem,
      unsure: false,
    };
  const front = /^(\d\d)([_-].*\d)$/.exec(stem);
  return (
    front && {
      take: front[2]!,
      chapter: Number(front[1]),
      name: (n) => two(n) + front[2]!,
      unsure: true,
    }
  );
}

/** How much smaller than its largest a chapter of a take may be that goes on in another. Cameras cut at a size, not to the byte. */
const FULL_CHAPTER = 0.9;

/** Takes in numbered chapters by their names and sizes: they begin with 0 or 1, and all but the last are as large as the take's chapters get. */
export function chapters<T extends NumberedFile>(files: readonly T[]): Chapters<T>[] {
  const takes = new Map<string, (Counted & { file: T })[]>();
  for (const file of files) {
    const c = chapterOf(file.stem);
    if (!c) continue;
    const key = `${file.path.slice(0, file.path.lastIndexOf('/') + 1)}\0${c.take}\0${extensionOf(file.path)}`;
    takes.set(key, [...(takes.get(key) ?? []), { file, ...c }]);
  }
  return [...takes.values()].flatMap((take) => {
    take.sort((a, b) => a.chapter - b.chapter);
    const [first, last] = [take[0]!, take.at(-1)!];
    const numbers = new Set(take.map((c) => c.chapter));
    const largest = Math.max(...take.map((c) => c.file.size));
    if (
      take.length < 2 ||
      numbers.size < take.length ||
      first.chapter > 1 ||
      last.chapter >= 2 * take.length ||
      take.slice(0, -1).some((c) => c.file.size < FULL_CHAPTER * largest)
    )
      return [];
    const missing: string[] = [];
    for (let n = first.chapter + 1; n < last.chapter; n++) if (!numbers.has(n)) missing.push(last.name(n));
    return [{ files: take.map((c) => c.file), missing, unsure: last.unsure }];
  });
}

/**
 * Whether chapters are one take by what was read of them: each goes on from the one before, or states the take's start anew. What
 * was not read, or does not tell, speaks against it only where their names are unsure.
 */
export function areOneTake<T extends NumberedFile>(
  { files, unsure }: Chapters<T>,
  evidence: (path: string) => TakeEvidence | undefined,
): boolean {
  return files.slice(1).every((file, i) => {
    const said = agreement(evidence(files[i]!.path), evidence(file.path));
    return said ?? !unsure;
  });
}

/** Whether what was read of two chapters speaks for one take; `null` where it does not tell. */
function agreement(a: TakeEvidence | undefined, b: TakeEvidence | undefined): boolean | null {
  if (!a || !b) return null;
  const said = continues(a, b);
  if (said === null) return a.rate && b.rate && a.frames !== null ? false : null;
  const alike = [
    a.start === null || b.start === null ? null : a.start === b.start,
    a.began === null || b.began === null ? null : Math.abs(a.began - b.began) <= CLOCK_SLACK,
  ];
  if (said.includes(true) || alike.includes(true)) return true;
  return said.includes(false) ? false : null;
}
