import * as z from 'zod';
import { formatRate, type Rate, sameRate } from '../platform/timecode/rate';
import {
  canDrop,
  formatTimecode,
  framesPerDay,
  sameAddress,
  type Timecode,
} from '../platform/timecode/timecode';
import { plural } from '../platform/words';
import { firstFrame, type Held, HELD_WORDS, nameKey, stemOf } from './held';
import { type Interval, Intervals, put } from './intervals';

/** By what a finishing program finds the original of a clip in an edit (common practice); in the order in which a person would choose. */
export const Way = z.enum(['name', 'stem', 'reel', 'timecode']);
export type Way = z.infer<typeof Way>;
export const WAYS = Way.options;
export const WAY_WORDS: Record<Way, string> = {
  name: 'full name',
  stem: 'name without extension',
  reel: 'reel and timecode',
  timecode: 'timecode alone',
};

/**
 * How one way goes for one clip. `connects`: it finds this clip's original and nothing else, and each frame is the same; `several`: it cannot
 * tell this original from others; `other`: it finds another clip's; `apart`: it finds the right one, but frames are not the same; `none`: it finds nothing.
 */
export const Tried = z.object({
  way: Way,
  result: z.enum(['connects', 'several', 'other', 'apart', 'none']),
  /** Why it does not connect, in words; "" where it does. */
  why: z.string(),
});
export type Tried = z.infer<typeof Tried>;

/** An original with the clip it is of. */
export interface Original {
  clip: string;
  held: Held;
}

/** The frames of a file, counted from midnight at its own rate; `to` is behind the last, and after midnight larger than a day has frames. */
export interface Extent {
  from: number;
  to: number;
  rate: Rate;
  drop: boolean;
}

/** `null` where a file states no timecode, rate or length, or a timecode that falls between its frames. */
export function extentOf(file: Held): Extent | null {
  const { start, rate, frames } = file;
  const from = firstFrame(file);
  if (!start || !rate || frames === null || from === null) return null;
  return { from, to: from + frames, rate, drop: start.drop && canDrop(rate) };
}

/** Originals that are looked at where very many fit: that there are several is known by then. */
const MOST = 20;

/** Originals by what each way looks for. */
export class Originals {
  readonly #names = new Map<string, Original[]>();
  readonly #stems = new Map<string, Original[]>();
  readonly #folded = new Map<string, Original[]>();
  readonly #own = new Map<string, Original>();
  /** By rate and count; and by those and the reel. */
  readonly #times = new Map<string, Intervals<Original>>();

  constructor(all: readonly Original[]) {
    const timed = new Map<string, { extent: Extent; list: Interval<Original>[] }>();
    const time = (key: string, extent: Extent, of: Original) => {
      const known = timed.get(key) ?? { extent, list: [] };
      known.list.push({ of, from: extent.from, to: extent.to });
      timed.set(key, known);
    };
    for (const original of all) {
      const { name, reel } = original.held;
      this.#own.set(original.clip, original);
      put(this.#names, nameKey(name), original);
      put(this.#stems, nameKey(stemOf(name)), original);
      put(this.#folded, fold(name), original);
      const extent = extentOf(original.held);
      if (!extent) continue;
      const { sound } = original.held;
      time(countKey(extent, sound, null), extent, original);
      if (reel !== null) time(countKey(extent, sound, reel), extent, original);
    }
    for (const [key, { extent, list }] of timed)
      this.#times.set(key, new Intervals(list, framesPerDay(extent.rate, extent.drop)));
  }

  named(name: string): readonly Original[] {
    return this.#names.get(nameKey(name)) ?? [];
  }

  stemmed(name: string): readonly Original[] {
    return this.#stems.get(nameKey(stemOf(name))) ?? [];
  }

  /** Whose names differ from one in capitals only. */
  inOtherCase(name: string): readonly Original[] {
    return this.#folded.get(fold(name)) ?? [];
  }

  /** Those that hold a stretch of timecode whole, at the same rate, of a reel or of any; a clip's own among them, of very many some. */
  covering(file: Held, clip: string, reel: string | null): readonly Original[] {
    const wanted = extentOf(file);
    const own = this.#own.get(clip);
    if (!wanted) return [];
    const found = new Set<Original>();
    for (const original of this.#times
      .get(countKey(wanted, file.sound, reel))
      ?.holding(wanted.from, wanted.to) ?? []) {
      found.add(original);
      if (found.size >= MOST) break;
    }
    if (found.size >= MOST && own && this.#covers(own, wanted, file.sound, reel)) found.add(own);
    return [...found];
  }

  #covers({ held }: Original, wanted: Extent, sound: boolean, reel: string | null): boolean {
    const extent = extentOf(held);
    const isSameCount =
      extent !== null && countKey(extent, held.sound, null) === countKey(wanted, sound, null);
    if (!isSameCount || (reel !== null && held.reel !== reel)) return false;
    const day = framesPerDay(wanted.rate, wanted.drop);
    return [0, day].some((d) => extent.from <= wanted.from + d && wanted.to + d <= extent.to);
  }
}

const fold = (name: string): string => nameKey(name).toLowerCase();
const countKey = ({ rate, drop }: Extent, sound: boolean, reel: string | null): string =>
  `${rate.num}/${rate.den}${drop ? ' drop' : ''}${sound ? ' sound' : ''}${reel === null ? '' : ` of ${reel}`}`;

/** Whether a file's timecode begins at zero, or it has none: programs count both from 00:00:00:00 (common practice). */
const isFromZero = (start: Timecode | null): boolean => start === null || start.frame === 0;

/** Whether two files begin at one address. */
const beginAlike = (a: Timecode | null, b: Timecode | null): boolean =>
  (isFromZero(a) && isFromZero(b)) || (a !== null && b !== null && sameAddress(a, b));

const startWords = (start: Timecode | null): string =>
  start === null ? 'states no timecode' : `starts at ${formatTimecode(start)}`;

/** Why frames of a file in the edit are not the same frames of its original, in words; empty where they are. */
export function apartBecause(edit: Held, original: Held): string[] {
  // The same file, whatever it states.
  if (edit === original) return [];
  const reasons: string[] = [];
  for (const file of [edit, original])
    if (file.rate === null || file.frames === null)
      reasons.push(`what the ${HELD_WORDS[file.what]} states of rate and length is not known`);
  const isOtherRate = edit.rate !== null && original.rate !== null && !sameRate(edit.rate, original.rate);
  if (isOtherRate)
    reasons.push(
      `the ${HELD_WORDS[edit.what]} runs at ${formatRate(edit.rate!)}, the ${HELD_WORDS[original.what]} at ${formatRate(original.rate!)}`,
    );
  if (!beginAlike(edit.start, original.start))
    reasons.push(
      `the ${HELD_WORDS[edit.what]} ${startWords(edit.start)}, the ${HELD_WORDS[original.what]} ${startWords(original.start)}`,
    );
  const more = (edit.frames ?? 0) - (original.frames ?? 0);
  // One that has fewer may lack them anywhere: its frames need not be those of the same number.
  if (reasons.length === 0 && more !== 0)
    reasons.push(
      `the ${HELD_WORDS[edit.what]} has ${plural(Math.abs(more), 'frame')} ${more > 0 ? 'more' : 'fewer'} than the ${HELD_WORDS[original.what]}`,
    );
  return reasons;
}

/** How a way goes for a clip whose edit holds a file. */
export function tryWay(way: Way, clip: string, edit: Held, originals: Originals): Tried {
  const result = (result: Tried['result'], why = ''): Tried => ({ way, result, why });
  const missing = statedFor(way, edit);
  if (missing !== null) return result('none', missing);
  const found = foundBy(way, clip, edit, originals);
  const mine = found.find((o) => o.clip === clip);
  if (found.length === 0) return result('none', nothingFound(way, edit, originals));
  if (!mine) return result('other', `finds ${found[0]!.held.name} of another clip`);
  if (found.length > 1) {
    const other = found.find((o) => o !== mine)!;
    const many = found.length >= MOST ? `${MOST} originals or more` : plural(found.length, 'original');
    return result('several', `${many} fit, ${other.held.name} too`);
  }
  const apart = apartBecause(edit, mine.held);
  return apart.length > 0 ? result('apart', apart.join('; ')) : result('connects');
}

/** What a file would have to state for a way and does not, in words; null where it states that. */
function statedFor(way: Way, { start, reel, rate, frames, what: kind }: Held): string | null {
  if (way === 'name' || way === 'stem') return null;
  const it = `the ${HELD_WORDS[kind]}`;
  if (start === null) return `${it} states no timecode`;
  if (rate === null || frames === null) return `what ${it} states of rate and length is not known`;
  return way === 'reel' && reel === null ? `${it} states no reel` : null;
}

function foundBy(way: Way, clip: string, edit: Held, originals: Originals): readonly Original[] {
  switch (way) {
    case 'name':
      return originals.named(edit.name);
    case 'stem':
      return originals.stemmed(edit.name);
    case 'reel':
      return originals.covering(edit, clip, edit.reel);
    case 'timecode':
      return originals.covering(edit, clip, null);
  }
}

function nothingFound(way: Way, edit: Held, originals: Originals): string {
  if (way === 'reel') return `no original of reel ${edit.reel} holds its timecode`;
  if (way === 'timecode') return 'no original holds its timecode';
  const [near] = way === 'name' ? originals.inOtherCase(edit.name) : [];
  if (near) return `no original is named ${edit.name}: ${near.held.name} differs in capitals`;
  return way === 'name'
    ? `no original is named ${edit.name}`
    : `no original is named ${stemOf(edit.name)}, whatever its extension`;
}
