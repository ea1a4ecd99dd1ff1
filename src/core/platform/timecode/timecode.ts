import * as z from 'zod';
import { countingRate, countsTimecode, formatRate, fps, Rate } from './rate';

/**
 * A timecode address: the count of frames since 00:00:00:00 (`frame`, an integer from 0 up to one day), at a rate,
 * counted with or without drop-frame. Drop-frame skips numbers, never frames (SMPTE ST 12-1, from memory).
 */
export const Timecode = z.object({ frame: z.int().nonnegative(), rate: Rate, drop: z.boolean() });
export type Timecode = z.infer<typeof Timecode>;

/** Drop-frame exists for 29.97 and its multiples only: it skips 2 numbers a minute at 29.97, 4 at 59.94, 8 at 119.88. */
export function canDrop(r: Rate): boolean {
  return r.den === 1001 && countingRate(r) % 30 === 0;
}

const droppedPerMinute = (r: Rate): number => countingRate(r) / 15;

/** Frames in one timecode day: 2 160 000 at 25, 2 589 408 at 29.97 drop-frame. */
export function framesPerDay(r: Rate, drop: boolean): number {
  const n = countingRate(r);
  const all = n * 86_400;
  return drop ? all - droppedPerMinute(r) * (1440 - 144) : all;
}

/** The timecode of a frame count; counts outside one day wrap round midnight. Throws RangeError at a rate that timecode cannot count at, and for drop-frame at one that has none. */
export function timecode(frame: number, r: Rate, drop = false): Timecode {
  if (!Number.isSafeInteger(frame)) throw new RangeError(`not a frame count: ${frame}`);
  if (!countsTimecode(r)) throw new RangeError(`no timecode counts ${formatRate(r)} frames a second`);
  if (drop && !canDrop(r)) throw new RangeError(`no drop-frame at ${r.num}/${r.den}`);
  const day = framesPerDay(r, drop);
  return { frame: ((frame % day) + day) % day, rate: r, drop };
}

/** "14:22:05:00", with ";" before the frames for drop-frame; three frame digits from 101 frames a second up. */
export function formatTimecode(tc: Timecode): string {
  const n = countingRate(tc.rate);
  let label = tc.frame;
  if (tc.drop) {
    const d = droppedPerMinute(tc.rate);
    const perMinute = n * 60 - d;
    const perTen = n * 600 - 9 * d;
    const tens = Math.floor(tc.frame / perTen);
    const rest = tc.frame % perTen;
    // The first minute of each ten keeps all its numbers; the other nine each skip d.
    const minutes = rest < n * 60 ? 0 : 1 + Math.floor((rest - n * 60) / perMinute);
    label += d * (9 * tens + minutes);
  }
  const two = (x: number) => String(x).padStart(2, '0');
  const s = Math.floor(label / n);
  const ff = String(label % n).padStart(n > 100 ? 3 : 2, '0');
  return `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}${tc.drop ? ';' : ':'}${ff}`;
}

/**
 * Reads "hh:mm:ss:ff"; ";" or "." before the frames means drop-frame where the rate has it. `null` for anything that
 * is not an address at this rate: minutes over 59, frames at or over the counting rate, or a number drop-frame skips
 * (00:01:00;00 does not exist).
 */
export function parseTimecode(text: string, r: Rate, options?: { drop?: boolean }): Timecode | null {
  const m = /^\s*(\d{2}):(\d{2}):(\d{2})([:;.,])(\d{2,3})\s*$/.exec(text);
  if (!m || !countsTimecode(r)) return null;
  const [hh, mm, ss, ff] = [Number(m[1]), Number(m[2]), Number(m[3]), Number(m[5])];
  const n = countingRate(r);
  if (hh > 23 || mm > 59 || ss > 59 || ff >= n) return null;
  const drop = (options?.drop ?? m[4] !== ':') && canDrop(r);
  const label = ((hh * 60 + mm) * 60 + ss) * n + ff;
  if (!drop) return { frame: label, rate: r, drop };
  const d = droppedPerMinute(r);
  if (ss === 0 && ff < d && mm % 10 !== 0) return null;
  const minutes = hh * 60 + mm;
  return { frame: label - d * (minutes - Math.floor(minutes / 10)), rate: r, drop };
}

/** The timecode `frames` later (earlier when negative), across midnight. */
export function addFrames(tc: Timecode, frames: number): Timecode {
  return timecode(tc.frame + frames, tc.rate, tc.drop);
}

/** The timecode at a frame of a clip that has `r` of them a second, where its timecode may count fewer: a number may name two frames or more. */
export const addressOf = (start: Timecode, frame: number, r: Rate): Timecode =>
  addFrames(start, Math.floor((frame * r.den * start.rate.num) / (r.num * start.rate.den)));

/** Frames from `start` to `end`, forward across midnight: 0 to one day less a frame. Both must count alike. */
export function framesBetween(start: Timecode, end: Timecode): number {
  if (start.rate.num !== end.rate.num || start.rate.den !== end.rate.den || start.drop !== end.drop) {
    throw new RangeError('timecodes at different rates cannot be subtracted');
  }
  const day = framesPerDay(start.rate, start.drop);
  return (end.frame - start.frame + day) % day;
}

/** The timecode just behind the last of `frames` frames: the "out" of the trade, which is exclusive. */
export const endOf = (start: Timecode, frames: number): Timecode => addFrames(start, frames);

/** Whether a clip of `frames` frames from `start` runs past midnight. */
export const crossesMidnight = (start: Timecode, frames: number): boolean =>
  start.frame + frames > framesPerDay(start.rate, start.drop);

/**
 * The same address counted at another rate, `null` where it falls between frames. A camera at 50 or 100 fps may write its
 * timecode at 25 (ST 12-1 numbers frame pairs above 30 fps): the address names the same moment of the count.
 */
export function atRate(tc: Timecode, r: Rate, drop = tc.drop && canDrop(r)): Timecode | null {
  const [from, to] = [countingRate(tc.rate), countingRate(r)];
  const text = formatTimecode(tc);
  const at = Math.max(text.lastIndexOf(':'), text.lastIndexOf(';'));
  const ff = (Number(text.slice(at + 1)) * to) / from;
  if (!Number.isInteger(ff)) return null;
  return parseTimecode(`${text.slice(0, at)}${drop ? ';' : ':'}${String(ff).padStart(2, '0')}`, r, { drop });
}

/**
 * Whether two timecodes name the same address, whatever rates they are counted at. Drop-frame and non-drop at one rate
 * never do: they name different moments of the day.
 */
export function sameAddress(a: Timecode, b: Timecode): boolean {
  if (a.rate.num === b.rate.num && a.rate.den === b.rate.den && a.drop === b.drop) return a.frame === b.frame;
  if (a.drop !== b.drop && canDrop(a.rate) && canDrop(b.rate)) return false;
  const [slow, fast] = countingRate(a.rate) <= countingRate(b.rate) ? [a, b] : [b, a];
  return atRate(slow, fast.rate, fast.drop)?.frame === fast.frame;
}

/** Running time of `frames` frames in seconds, as a float, for display. */
export const seconds = (frames: number, r: Rate): number => (frames * r.den) / r.num;

/** "0:38:11" for running times; under an hour "38:11". Rounded to whole seconds. */
export function formatRunningTime(s: number): string {
  const t = Math.round(s);
  const two = (x: number) => String(x).padStart(2, '0');
  const h = Math.floor(t / 3600);
  return h > 0
    ? `${h}:${two(Math.floor(t / 60) % 60)}:${two(t % 60)}`
    : `${Math.floor(t / 60)}:${two(t % 60)}`;
}

/**
 * The start timecode a free-running time-of-day counter shows at a wall-clock time (common practice): `secondsOfDay`
 * from 0 to 86 400, rounded down to a frame. Throws RangeError at a rate that timecode cannot count at.
 */
export function fromTimeOfDay(secondsOfDay: number, r: Rate, drop = false): Timecode {
  const n = drop ? fps(r) : countingRate(r);
  return timecode(Math.floor(secondsOfDay * n + 1e-6), r, drop);
}

/**
 * Reads the eight digits `FFSSMMHH` some XML sidecars state timecode in, frames first. `null` where they are no
 * address at this rate.
 */
export function parseFramesFirst(digits: string, r: Rate, drop: boolean): Timecode | null {
  if (!/^\d{8}$/.test(digits)) return null;
  const [ff, ss, mm, hh] = [digits.slice(0, 2), digits.slice(2, 4), digits.slice(4, 6), digits.slice(6, 8)];
  return parseTimecode(`${hh}:${mm}:${ss}${drop ? ';' : ':'}${ff}`, r, { drop });
}
