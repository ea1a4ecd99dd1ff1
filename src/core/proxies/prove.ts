import { z } from 'zod';
import { formatRate, Rate, sameRate } from '../platform/timecode/rate';
import { addFrames, endOf, formatTimecode, sameAddress, Timecode } from '../platform/timecode/timecode';

/** What a pair is proven by. `null` where a file does not state it; `channels` is the sum over all audio streams. */
export const PairFacts = z.object({
  frames: z.int().nullable(),
  rate: Rate.nullable(),
  start: Timecode.nullable(),
  channels: z.int().nullable(),
  /** When each frame is shown, seconds from the first, of a clip whose rate varies; `null` where that could not be read. */
  times: z.array(z.number()).nullable().optional(),
});
export type PairFacts = z.infer<typeof PairFacts>;

export const PairState = z.enum(['missing', 'unproven', 'proven', 'mismatched']);
export type PairState = z.infer<typeof PairState>;

export const PAIR_WORDS: Record<PairState, string> = {
  missing: 'no proxy',
  unproven: 'not proven',
  proven: 'proven',
  mismatched: 'does not match',
};

export const PairCheck = z.object({
  what: z.enum(['frames', 'rate', 'start', 'duration', 'times', 'channels']),
  result: z.enum(['same', 'differs', 'unknown']),
  /** As shown to the person. */
  original: z.string(),
  proxy: z.string(),
});
export type PairCheck = z.infer<typeof PairCheck>;

export const CHECK_WORDS: Record<PairCheck['what'], string> = {
  frames: 'frame count',
  rate: 'frame rate',
  start: 'start timecode',
  duration: 'duration',
  times: 'frame times',
  channels: 'audio channels',
};

const seconds = (f: PairFacts): number | null =>
  f.frames === null || !f.rate ? null : (f.frames * f.rate.den) / f.rate.num;

/**
 * The facts of a take whose parts follow each other: frames of all, the rest of the first. A part whose timecode does not go on where those
 * before it end is no part of this take: the start it would have by that part is what is compared.
 */
export function partsAsOne(parts: readonly PairFacts[]): PairFacts {
  const [first, ...further] = parts;
  if (!first) return { frames: null, rate: null, start: null, channels: null };
  return further.reduce<PairFacts>(
    (sum, p) => ({
      ...sum,
      start:
        sum.start && p.start && sum.frames !== null && !sameAddress(endOf(sum.start, sum.frames), p.start)
          ? addFrames(p.start, -sum.frames)
          : sum.start,
      frames: sum.frames === null || p.frames === null ? null : sum.frames + p.frames,
      rate: sum.rate && p.rate && sameRate(sum.rate, p.rate) ? sum.rate : null,
      channels: sum.channels === p.channels ? sum.channels : null,
      ...(sum.times === undefined ? {} : { times: null }),
    }),
    first,
  );
}

/**
 * Compares an original with its proxy. Proven where all five agree; mismatched where any differs; unproven where none
 * differs but something is not stated. Durations agree within half a frame of the original. Where the original's rate varies, the times of all frames
 * take the place of rate and duration, which are averages there: each agrees to a millisecond.
 */
export function provePair(
  original: PairFacts,
  proxy: PairFacts,
): { state: 'proven' | 'unproven' | 'mismatched'; checks: PairCheck[] } {
  const [so, sp] = [seconds(original), seconds(proxy)];
  const half = original.rate ? original.rate.den / original.rate.num / 2 : 0;
  const { times } = original;
  const checks = [
    check('frames', original.frames, proxy.frames, (a, b) => a === b, String),
    times !== undefined
      ? timesCheck(times, proxy.times ?? null)
      : check('rate', original.rate, proxy.rate, sameRate, formatRate),
    check('start', original.start, proxy.start, sameAddress, formatTimecode),
    ...(times !== undefined
      ? []
      : [
          check(
            'duration',
            so,
            sp,
            (a, b) => Math.abs(a - b) <= half,
            (s) => `${s.toFixed(2)} s`,
          ),
        ]),
    check('channels', original.channels, proxy.channels, (a, b) => a === b, String),
  ];
  const state = checks.some((c) => c.result === 'differs')
    ? 'mismatched'
    : checks.every((c) => c.result === 'same')
      ? 'proven'
      : 'unproven';
  return { state, checks };
}

/** The times of all frames, or the first that differs. */
function timesCheck(original: readonly number[] | null, proxy: readonly number[] | null): PairCheck {
  const at =
    original && proxy ? original.findIndex((t, i) => !(Math.abs(t - (proxy[i] ?? Infinity)) <= 0.001)) : -1;
  const show = (times: readonly number[] | null): string =>
    times === null
      ? 'not stated'
      : at < 0
        ? `${times.length} frames to ${(times.at(-1) ?? 0).toFixed(3)} s`
        : `frame ${at + 1} at ${times[at] === undefined ? 'no time' : `${times[at].toFixed(3)} s`}`;
  return {
    what: 'times',
    result:
      original === null || proxy === null
        ? 'unknown'
        : at < 0 && original.length === proxy.length
          ? 'same'
          : 'differs',
    original: show(original),
    proxy: show(proxy),
  };
}

function check<T>(
  what: PairCheck['what'],
  a: T | null,
  b: T | null,
  same: (a: T, b: T) => boolean,
  show: (v: T) => string,
): PairCheck {
  const result = a === null || b === null ? 'unknown' : same(a, b) ? 'same' : 'differs';
  return {
    what,
    result,
    original: a === null ? 'not stated' : show(a),
    proxy: b === null ? 'not stated' : show(b),
  };
}

/** The reason a pair is not proven, as a sentence; "" for a proven one. */
export function pairReason(checks: readonly PairCheck[]): string {
  const differs = checks.filter((c) => c.result === 'differs');
  const relevant = differs.length > 0 ? differs : checks.filter((c) => c.result === 'unknown');
  return relevant.map((c) => `${CHECK_WORDS[c.what]}: original ${c.original}, proxy ${c.proxy}`).join('; ');
}
