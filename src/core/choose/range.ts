import * as z from 'zod';
import type { ClipKind } from '../intake';
import type { Rate } from '../platform/timecode/rate';
import { addFrames, formatTimecode, parseTimecode, seconds } from '../platform/timecode/timecode';

/**
 * What a range says of its frames. `circled` and `found` come from a sound recorder and from the checks of the media, `used` from edits that came
 * back, the others from a person.
 */
export const RangeKind = z.enum(['select', 'reject', 'note', 'circled', 'found', 'used']);
export type RangeKind = z.infer<typeof RangeKind>;
export const RANGE_WORDS: Record<RangeKind, string> = {
  select: 'select',
  reject: 'reject',
  note: 'note',
  circled: 'circled take',
  found: 'finding',
  used: 'used in an edit',
};
/** The kinds that a person gives. */
export const GivenKind = z.enum(['select', 'reject', 'note']);
export type GivenKind = z.infer<typeof GivenKind>;
export const isGiven = (kind: RangeKind): kind is GivenKind => GivenKind.options.some((k) => k === kind);

/** A stretch of a clip in frames of its original, from 0; `to` is the one after its last. */
export interface Span {
  from: number;
  to: number;
}

/** How ranges of sound alone are counted, whatever its timecode counts, and of stills: they have no frames of their own. */
export const SOUND_RATE: Rate = { num: 25, den: 1 };

/**
 * In what ranges of a clip are counted, and how many of those it has: frames of its picture, 25 a second of sound alone, one of a still.
 * `start`: its timecode, where that counts the same; else it is counted from its own beginning. Null where nothing is known to count.
 */
export function countOf({
  kind,
  rate,
  frames,
  seconds: long,
  start,
}: {
  kind: ClipKind;
  rate: Rate | null;
  frames: number | null;
  seconds: number | null;
  start: string | null;
}): { rate: Rate; frames: number; start: string | null } | null {
  if (kind === 'still') return { rate: SOUND_RATE, frames: 1, start: null };
  if (kind === 'sound')
    return long === null
      ? null
      : { rate: SOUND_RATE, frames: Math.max(1, Math.ceil(long * SOUND_RATE.num)), start: null };
  return rate === null || frames === null ? null : { rate, frames, start };
}

/** Why a stretch cannot be one of a clip of so many frames; null where it can. `frames` of null: not known. */
export function spanFault({ from, to }: Span, frames: number | null): string | null {
  if (frames === null) return 'its length is not known';
  if (!Number.isSafeInteger(from) || !Number.isSafeInteger(to) || to <= from)
    return 'the out point is not after the in point';
  return from < 0 || to > frames ? `the clip has ${frames} ${frames === 1 ? 'frame' : 'frames'}` : null;
}

/** A stretch with one of its ends moved by frames, kept inside its clip and one frame long at least. */
export function nudged(span: Span, end: 'from' | 'to', by: number, frames: number): Span {
  const moved = span[end] + by;
  return end === 'from'
    ? { ...span, from: Math.max(0, Math.min(span.to - 1, moved)) }
    : { ...span, to: Math.min(frames, Math.max(span.from + 1, moved)) };
}

/**
 * Timecodes of the first and of the last frame of a stretch, and how long it runs in seconds. Of a clip without a timecode the frames are
 * counted from its own first, at 00:00:00:00; null where the rate is not known.
 */
export function spanTimes(
  { from, to }: Span,
  { start, rate }: { start: string | null; rate: Rate | null },
): { first: string; last: string; seconds: number } | null {
  if (!rate) return null;
  const begin = parseTimecode(start ?? '00:00:00:00', rate) ?? parseTimecode('00:00:00:00', rate);
  if (!begin) return null;
  return {
    first: formatTimecode(addFrames(begin, from)),
    last: formatTimecode(addFrames(begin, to - 1)),
    seconds: seconds(to - from, rate),
  };
}
