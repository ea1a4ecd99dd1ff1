import { countingRate, fps, type Rate } from '../platform/timecode/rate';

/** A clip as it runs. */
export interface Runs {
  id: string;
  /** Clips of one camera never run at once. */
  camera: string;
  /** Number of the shoot day. */
  day: number;
  seconds: number;
  /** Seconds since midnight its own timecode begins at; null where it has none. */
  timecode: number | null;
  /** Seconds since 1970 it began at by the job's clock; null where nothing says. */
  clock: number | null;
}

/** By what two clips stand beside each other. */
export type RollingBy = 'timecode' | 'clock';

/** A clip among others that ran at the same time: seconds from the beginning of the first of them. */
export interface Beside {
  id: string;
  offset: number;
  by: RollingBy;
}

/**
 * Seconds by which what timecodes and what clocks say of two clips may differ. Clocks of cameras are some minutes apart; timecode that
 * counts recordings and not the time of day is off by more (common practice: from memory).
 */
const APART = 600;
/** Seconds two clips run at once at least. */
const LEAST = 0.04;
/** Clips that run when one begins, of which it is asked: of more the longest are enough to tie them all. */
const MOST_AT_ONCE = 64;

type Linked = Runs & { start: number };

/** Clips tied to one another, each with its distance to the one it was tied to. */
class Ties {
  readonly #parent = new Map<string, string>();
  readonly #from = new Map<string, number>();
  readonly by = new Map<string, RollingBy>();

  /** The clip all are measured from, and how long after it this one begins. */
  root(id: string): { id: string; offset: number } {
    let [at, offset] = [id, 0];
    for (let up = this.#parent.get(at); up !== undefined; up = this.#parent.get(at)) {
      offset += this.#from.get(at)!;
      at = up;
    }
    // What was walked is measured from the root from now on: long chains are walked once.
    let [walked, left] = [id, offset];
    while (walked !== at) {
      const [up, step] = [this.#parent.get(walked)!, this.#from.get(walked)!];
      this.#parent.set(walked, at);
      this.#from.set(walked, left);
      [walked, left] = [up, left - step];
    }
    return { id: at, offset };
  }

  /** Ties two; `seconds` are from the beginning of the first to that of the second. */
  tie(a: string, b: string, seconds: number, by: RollingBy): void {
    for (const id of [a, b]) if (!this.by.has(id)) this.by.set(id, by);
    const [one, other] = [this.root(a), this.root(b)];
    if (one.id === other.id) return;
    this.#parent.set(other.id, one.id);
    this.#from.set(other.id, one.offset + seconds - other.offset);
  }
}

/**
 * Clips of different cameras and recorders that ran at the same time, in groups, the first of each at 0 seconds: by timecode where both have
 * one that their clocks do not contradict, else by their clocks. `dayStart` is the hour at which a day begins; `apart` says which a person
 * has told apart.
 */
export function rollingTogether(
  clips: readonly Runs[],
  { dayStart, apart }: { dayStart: number; apart: (a: string, b: string) => boolean },
): Beside[][] {
  const ties = new Ties();
  const early = dayStart * 3600;
  const byTimecode = clips.flatMap((c): Linked[] => {
    if (c.timecode === null) return [];
    // Behind midnight it is still the day before.
    const since = c.timecode < early ? c.timecode + 86_400 : c.timecode;
    return [{ ...c, start: c.day * 200_000 + since }];
  });
  const byClock = clips.flatMap((c): Linked[] => (c.clock === null ? [] : [{ ...c, start: c.clock }]));
  const agree = (a: Linked, b: Linked, by: RollingBy): boolean => {
    const [clocks, timecodes] = [difference(a.clock, b.clock), difference(a.timecode, b.timecode)];
    const contradicted =
      clocks !== null && timecodes !== null && wrapped(Math.abs(timecodes - clocks)) > APART;
    return by === 'timecode' ? !contradicted : timecodes === null || contradicted;
  };
  for (const [list, by] of [
    [byTimecode, 'timecode'],
    [byClock, 'clock'],
  ] as const)
    overlapping(list, (a, b) => {
      if (a.camera !== b.camera && agree(a, b, by) && !apart(a.id, b.id))
        ties.tie(a.id, b.id, b.start - a.start, by);
    });
  return grouped(clips, ties);
}

const difference = (a: number | null, b: number | null): number | null =>
  a === null || b === null ? null : b - a;
/** A difference of times of day, without whole days. */
const wrapped = (seconds: number): number => {
  const left = seconds % 86_400;
  return Math.min(left, 86_400 - left);
};

/** Tells of every two clips that run at once, the one that began first before the other. */
function overlapping(clips: readonly Linked[], tell: (a: Linked, b: Linked) => void): void {
  let running: Linked[] = [];
  for (const clip of [...clips].sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1))) {
    running = running.filter((r) => r.start + r.seconds >= clip.start + LEAST);
    for (const other of running) tell(other, clip);
    running.push(clip);
    if (running.length > MOST_AT_ONCE)
      running = running.sort((a, b) => b.start + b.seconds - (a.start + a.seconds)).slice(0, MOST_AT_ONCE);
  }
}

function grouped(clips: readonly Runs[], ties: Ties): Beside[][] {
  const groups = new Map<string, Beside[]>();
  for (const { id } of clips) {
    const by = ties.by.get(id);
    if (by === undefined) continue;
    const { id: root, offset } = ties.root(id);
    const one = { id, offset, by };
    const there = groups.get(root);
    if (there) there.push(one);
    else groups.set(root, [one]);
  }
  return [...groups.values()].map(fromFirst);
}

/** Clips in the order of their beginnings, the first at 0. */
export function fromFirst<T extends { id: string; offset: number }>(clips: readonly T[]): T[] {
  const first = Math.min(...clips.map((c) => c.offset));
  return clips
    .map((c) => ({ ...c, offset: c.offset - first }))
    .sort((a, b) => a.offset - b.offset || (a.id < b.id ? -1 : 1));
}

const two = (n: number): string => String(n).padStart(2, '0');

/** Seconds as frames of a rate with a sign, "+1:05:12": minutes, seconds, frames; hours before them where there are any. */
export function apartText(seconds: number, rate: Rate): string {
  const frames = Math.round(Math.abs(seconds) * fps(rate));
  const each = countingRate(rate);
  const [whole, left] = [Math.floor(frames / each), frames % each];
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  const sign = frames === 0 ? '±' : seconds < 0 ? '−' : '+';
  return `${sign}${h > 0 ? `${h}:${two(m)}` : m}:${two(s)}:${two(left)}`;
}
