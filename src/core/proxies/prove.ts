import { z } from 'zod';
import { formatRate, Rate, sameRate } from '../platform/timecode/rate';
import { formatTimecode, sameAddress, Timecode } from '../platform/timecode/timecode';

/** What a pair is proven by. `null` where a file does not state it; `channels` is the sum over all audio streams. */
export const PairFacts = z.object({
  frames: z.int().nullable(),
  rate: Rate.nullable(),
  start: Timecode.nullable(),
  channels: z.int().nullable(),
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
  what: z.enum(['frames', 'rate', 'start', 'duration', 'channels']),
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
  channels: 'audio channels',
};

const seconds = (f: PairFacts): number | null =>
  f.frames === null || !f.rate ? null : (f.frames * f.rate.den) / f.rate.num;

/**
 * Compares an original with its proxy. Proven where all five agree; mismatched where any differs; unproven where none
 * differs but something is not stated. Durations agree within half a frame of the original.
 */
export function provePair(
  original: PairFacts,
  proxy: PairFacts,
): { state: 'proven' | 'unproven' | 'mismatched'; checks: PairCheck[] } {
  const [so, sp] = [seconds(original), seconds(proxy)];
  const half = original.rate ? original.rate.den / original.rate.num / 2 : 0;
  const checks = [
    check('frames', original.frames, proxy.frames, (a, b) => a === b, String),
    check('rate', original.rate, proxy.rate, sameRate, formatRate),
    check('start', original.start, proxy.start, sameAddress, formatTimecode),
    check(
      'duration',
      so,
      sp,
      (a, b) => Math.abs(a - b) <= half,
      (s) => `${s.toFixed(2)} s`,
    ),
    check('channels', original.channels, proxy.channels, (a, b) => a === b, String),
  ];
  const state = checks.some((c) => c.result === 'differs')
    ? 'mismatched'
    : checks.every((c) => c.result === 'same')
      ? 'proven'
      : 'unproven';
  return { state, checks };
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
