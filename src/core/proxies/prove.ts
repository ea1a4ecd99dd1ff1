import * as z from 'zod';
import type { Recipe } from './recipe';
import { ALIKE, areAlike, type Compared } from '../analysis';
import { formatRate, parseRate, Rate, sameRate } from '../platform/timecode/rate';
import {
  addFrames,
  endOf,
  formatTimecode,
  parseTimecode,
  sameAddress,
  Timecode,
} from '../platform/timecode/timecode';

/** What a pair is proven by. `null` where a file does not state it; `channels` is the sum over all audio streams. */
export const PairFacts = z.object({
  frames: z.int().nullable(),
  rate: Rate.nullable(),
  start: Timecode.nullable(),
  channels: z.int().nullable(),
  /** The reel the file says it is of; not compared. */
  reel: z.string().nullable().optional(),
  /** When each frame is shown, seconds from the first, of a clip whose rate varies; `null` where that could not be read. */
  times: z.array(z.number()).nullable().optional(),
  /** Width and height as it is shown, of square pixels and turned; `null` where that is not stated. Compared where the original has it. */
  shown: z.object({ width: z.number(), height: z.number() }).nullable().optional(),
});
export type PairFacts = z.infer<typeof PairFacts>;

/** How a clip and its proxy stand: `none` needs none, `waiting` has one under way, of `lost` one of both is not at its place. */
export const PairState = z.enum(['none', 'missing', 'waiting', 'unproven', 'proven', 'mismatched', 'lost']);
export type PairState = z.infer<typeof PairState>;

export const PAIR_WORDS: Record<PairState, string> = {
  none: 'none needed',
  missing: 'no proxy',
  waiting: 'waiting',
  unproven: 'not proven',
  proven: 'proven',
  mismatched: 'does not match',
  lost: 'lost',
};

export const PairCheck = z.object({
  what: z.enum([
    'frames',
    'rate',
    'start',
    'duration',
    'times',
    'channels',
    'aspect',
    'pictures',
    'levels',
    'decoded',
    'place',
  ]),
  result: z.enum(['same', 'differs', 'unknown']),
  /** As shown to the person. */
  original: z.string(),
  proxy: z.string(),
  /** Of its start, what the proxy states exactly: it may be counted at another rate than its frames. Absent of what was checked before this was kept. */
  states: Timecode.optional(),
  /** Of its start, the reel the proxy says it is of, `null` where it says none. Absent of what was checked before this was kept. */
  reel: z.string().nullable().optional(),
});
export type PairCheck = z.infer<typeof PairCheck>;

export const CHECK_WORDS: Record<PairCheck['what'], string> = {
  frames: 'frame count',
  rate: 'frame rate',
  start: 'start timecode',
  duration: 'duration',
  times: 'frame times',
  channels: 'audio channels',
  aspect: 'aspect',
  pictures: 'pictures',
  levels: 'brightness',
  decoded: 'decoded picture and sound',
  place: 'place',
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
export function provePair(original: PairFacts, proxy: PairFacts): Proof {
  const [so, sp] = [seconds(original), seconds(proxy)];
  const half = original.rate ? original.rate.den / original.rate.num / 2 : 0;
  const { times } = original;
  const checks = [
    check('frames', original.frames, proxy.frames, (a, b) => a === b, String),
    times !== undefined
      ? timesCheck(times, proxy.times ?? null)
      : check('rate', original.rate, proxy.rate, sameRate, formatRate),
    {
      ...check('start', original.start, proxy.start, sameAddress, formatTimecode),
      ...(proxy.start ? { states: proxy.start } : {}),
      ...(proxy.reel === undefined ? {} : { reel: proxy.reel }),
    },
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
    ...(original.shown === undefined
      ? []
      : [
          check('aspect', original.shown, proxy.shown ?? null, sameAspect, (s) =>
            (s.width / s.height).toFixed(3),
          ),
        ]),
  ];
  return proofOf(checks);
}

/** What came of comparing two files. */
export interface Proof {
  state: 'proven' | 'unproven' | 'mismatched' | 'lost';
  checks: PairCheck[];
}

/** What checks make of a pair. */
const proofOf = (checks: PairCheck[]): Proof => ({
  state: checks.some((c) => c.result === 'differs')
    ? 'mismatched'
    : checks.length > 0 && checks.every((c) => c.result === 'same')
      ? 'proven'
      : 'unproven',
  checks,
});

const THERE = 'there';
/** A pair of which one file, or both, are not at their places; what was proven of it is kept beside that. */
export const lostOf = (checks: readonly PairCheck[], away: { original: boolean; proxy: boolean }): Proof => ({
  state: 'lost',
  checks: [
    ...foundAgain(checks).checks,
    {
      what: 'place',
      result: 'differs',
      original: away.original ? 'not there' : THERE,
      proxy: away.proxy ? 'not there' : THERE,
    },
  ],
});

/** The same once both are at their places, as they were when it was proven. */
export const foundAgain = (checks: readonly PairCheck[]): Proof =>
  proofOf(checks.filter((c) => c.what !== 'place'));

/** Whether two pictures are of one shape, but for the pixel or two that sides are rounded by. */
const sameAspect = (a: { width: number; height: number }, b: { width: number; height: number }): boolean =>
  Math.abs((a.width / a.height) * b.height - b.width) <= 2 * Math.max(1, a.width / a.height);

/** What comparing the pictures of two files shows. `levels`: whether they should be as bright; not with a look, nor where another made it. */
export function pictureChecks(
  compared: Compared | { fault: string; of: 'original' | 'proxy' } | null,
  levels: boolean,
): PairCheck[] {
  if (compared === null || 'fault' in compared)
    return [
      {
        what: 'pictures',
        result: compared?.of === 'proxy' ? 'differs' : 'unknown',
        original: compared?.of === 'original' ? compared.fault : 'pictures',
        proxy: compared?.of === 'proxy' ? compared.fault : 'not compared',
      },
    ];
  const { pictures, worst, flatDiffers } = compared;
  const { original, other } = compared.levels;
  return [
    {
      what: 'pictures',
      result: areAlike(compared) ? 'same' : 'differs',
      original: `${pictures} pictures`,
      proxy:
        flatDiffers !== null
          ? `another at frame ${flatDiffers}`
          : worst === null
            ? 'with nothing to be seen in either'
            : `${areAlike(compared) ? 'alike' : 'another'}, ${worst.correlation.toFixed(3)} of 1 at frame ${worst.frame}`,
    },
    ...(levels
      ? [
          {
            what: 'levels' as const,
            result: Math.abs(original - other) <= ALIKE.levels ? ('same' as const) : ('differs' as const),
            original: `${original.toFixed(1)} of 255`,
            proxy: other.toFixed(1),
          },
        ]
      : []),
  ];
}

const countIn = (words: string): number | null => (/^\d+$/.test(words) ? Number(words) : null);

/** What a proxy states by what it was proven by: as `provePair` was given it, `null` also where that was not compared. */
export function statedByProxy(
  checks: readonly PairCheck[],
): Pick<PairFacts, 'frames' | 'rate' | 'start' | 'channels'> & { reel: string | null } {
  const of = (what: PairCheck['what']) => checks.find((c) => c.what === what);
  const words = (what: PairCheck['what']) => of(what)?.proxy ?? '';
  const rate = parseRate(words('rate'));
  return {
    rate,
    frames: countIn(words('frames')),
    start: of('start')?.states ?? (rate && parseTimecode(words('start'), rate)),
    channels: countIn(words('channels')),
    reel: of('start')?.reel ?? null,
  };
}

/** The same checks, with the reel that the proxy says it is of. */
export const withReel = (checks: readonly PairCheck[], reel: string | null): PairCheck[] =>
  checks.map((c) => (c.what === 'start' ? { ...c, reel } : c));
/** Whether the reel that a proxy says it is of was never read. */
export const isReelUnread = (checks: readonly PairCheck[]): boolean =>
  checks.some((c) => c.what === 'start' && c.reel === undefined);

const LATER = 'not looked at yet';
/** What is compared later, for it takes long: until then the pair is not proven. */
export const laterCheck = (recipe: Pick<Recipe, 'purpose'> | null): PairCheck => ({
  what: recipe?.purpose === 'rewrap' ? 'decoded' : 'pictures',
  result: 'unknown',
  original: LATER,
  proxy: LATER,
});
/** Whether something of a pair is still to be compared. */
export const isToBeProven = (checks: readonly PairCheck[]): boolean => checks.some((c) => c.proxy === LATER);

/** A check that was made otherwise, with what it makes of the state of those before it. */
export const alsoChecked = ({ checks }: Proof, also: PairCheck): Proof => proofOf([...checks, also]);

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
  const place = checks.find((c) => c.what === 'place');
  if (place) return placeReason(place);
  const differs = checks.filter((c) => c.result === 'differs');
  const relevant = differs.length > 0 ? differs : checks.filter((c) => c.result === 'unknown');
  return relevant.map((c) => `${CHECK_WORDS[c.what]}: original ${c.original}, proxy ${c.proxy}`).join('; ');
}

function placeReason({ original, proxy }: PairCheck): string {
  if (original !== THERE && proxy !== THERE) return 'neither original nor proxy is at its place';
  return `the ${proxy === THERE ? 'original' : 'proxy'} is not at its place`;
}
