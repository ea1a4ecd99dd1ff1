import * as z from 'zod';

/**
 * A frame rate as an exact rational in frames per second, in lowest terms: 25 is `{ num: 25, den: 1 }`,
 * 29.97 is `{ num: 30000, den: 1001 }`. Never a float in stored data.
 */
export const Rate = z.object({ num: z.int().positive(), den: z.int().positive() });
export type Rate = z.infer<typeof Rate>;

const divisor = (a: number, b: number): number => (b === 0 ? a : divisor(b, a % b));

/** The rate `num/den` in lowest terms. Throws RangeError unless both are positive integers. */
export function rate(num: number, den = 1): Rate {
  if (!Number.isSafeInteger(num) || !Number.isSafeInteger(den) || num <= 0 || den <= 0) {
    throw new RangeError(`not a frame rate: ${num}/${den}`);
  }
  const d = divisor(num, den);
  return { num: num / d, den: den / d };
}

/** The rates of SMPTE ST 12-1 and the high rates cameras add to them (ST 12-1 from memory). */
export const STANDARD_RATES: readonly Rate[] = [
  rate(24000, 1001),
  rate(24),
  rate(25),
  rate(30000, 1001),
  rate(30),
  rate(48000, 1001),
  rate(48),
  rate(50),
  rate(60000, 1001),
  rate(60),
  rate(100),
  rate(120000, 1001),
  rate(120),
];

/** A rate a clip can have: from a picture in a hundred seconds to a hundred thousand a second. Files that state others state none. */
export const isPlausible = (r: Rate): boolean => fps(r) >= 0.01 && fps(r) <= 100_000;

/** Whether timecode can count at a rate: one to a thousand frames a second. An address has a whole number of frames in each second. */
export const countsTimecode = (r: Rate): boolean => fps(r) >= 1 && fps(r) <= 1000;

export const sameRate = (a: Rate, b: Rate): boolean => a.num * b.den === b.num * a.den;

/** The rate that comes most often, of equals the one that came first; `null` of none. */
export function mostFrequent(rates: readonly Rate[]): Rate | null {
  const counts = new Map<string, { rate: Rate; n: number }>();
  for (const r of rates) {
    const key = `${r.num}/${r.den}`;
    counts.set(key, { rate: r, n: (counts.get(key)?.n ?? 0) + 1 });
  }
  return [...counts.values()].sort((a, b) => b.n - a.n)[0]?.rate ?? null;
}

/** Frames per second as a float, for display and seeking only. */
export const fps = (r: Rate): number => r.num / r.den;

/** The whole number of frames a timecode counts in one second: 30 for 29.97, 24 for 23.976. */
export const countingRate = (r: Rate): number => Math.round(r.num / r.den);

/** "25", "29.97", "23.976", "59.94", "119.88": as the trade writes a rate. */
export function formatRate(r: Rate): string {
  if (r.den === 1) return String(r.num);
  if (fps(r) < 1) return String(Number(fps(r).toPrecision(2)));
  const digits = countingRate(r) === 24 ? 3 : 2;
  return String(Number(fps(r).toFixed(digits)));
}

/**
 * Reads "25", "25/1", "30000/1001", "29.97", "23.98", "50p". A decimal within 0.005 of a standard rate is that
 * rate (common practice: 23.98 and 23.976 both mean 24000/1001); any other decimal is kept to three places.
 * `null` where the text is not a positive rate ("0/0" is what ffprobe prints for "unknown").
 */
export function parseRate(text: string): Rate | null {
  const m = /^(\d{1,9})(?:\s{0,4}\/\s{0,4}(\d{1,9})|\.(\d{1,6}))?\s{0,4}[pi]?$/i.exec(
    text.slice(0, 80).trim(),
  );
  if (!m) return null;
  const whole = Number(m[1]);
  if (m[2] !== undefined)
    return whole > 0 && Number(m[2]) > 0 ? nearStandard(rate(whole, Number(m[2]))) : null;
  if (m[3] === undefined) return whole > 0 ? rate(whole) : null;
  const value = Number(`${m[1]}.${m[3]}`);
  if (value <= 0) return null;
  const near = STANDARD_RATES.find((r) => Math.abs(fps(r) - value) < 0.005);
  return near ?? rate(Math.max(1, Math.round(value * 1000)), 1000);
}

/**
 * Containers with coarse clocks state rates like 2997/100 or 19001/634. Within one part in 50 000 of a standard rate
 * the standard rate is meant: closer than 30 is to 29.97 by a factor of fifty.
 */
function nearStandard(r: Rate): Rate {
  return STANDARD_RATES.find((s) => Math.abs(fps(s) / fps(r) - 1) < 2e-5) ?? r;
}
