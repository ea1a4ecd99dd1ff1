import * as z from 'zod';
import { formatRate, Rate, sameRate } from '../platform/timecode/rate';
import { formatTimecode, sameAddress, Timecode } from '../platform/timecode/timecode';

/**
 * A moment as a camera writes it: local wall-clock date and time ("2026-05-06T14:22:05", no fraction) and the offset
 * from UTC in minutes, `null` where the source did not say one.
 */
export const Moment = z.object({
  local: z.string().regex(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$/),
  offset: z.int().nullable(),
});
export type Moment = z.infer<typeof Moment>;

const finite = z.number().refine(Number.isFinite);

/**
 * A value with its type. Counts are integers, numbers are not; the unit of either is in the catalogue. A fraction is
 * exact: 1/50 of a second, 1/1 pixel aspect. A triple is one number each for red, green and blue.
 */
export const Value = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text'), text: z.string() }),
  z.object({ type: z.literal('count'), count: z.int() }),
  z.object({ type: z.literal('number'), number: finite }),
  z.object({ type: z.literal('fraction'), num: z.int(), den: z.int().positive() }),
  z.object({ type: z.literal('flag'), flag: z.boolean() }),
  z.object({ type: z.literal('triple'), triple: z.tuple([finite, finite, finite]) }),
  z.object({ type: z.literal('rate'), rate: Rate }),
  z.object({ type: z.literal('timecode'), timecode: Timecode }),
  z.object({ type: z.literal('moment'), moment: Moment }),
]);
export type Value = z.infer<typeof Value>;
export type ValueType = Value['type'];

const near = (a: number, b: number): boolean =>
  Math.abs(a - b) <= 1e-6 + 5e-4 * Math.max(Math.abs(a), Math.abs(b));

/** Whether two values say the same, units and rates taken into account. Numbers agree to five parts in ten thousand: sources round. */
export function sameValue(a: Value, b: Value): boolean {
  if (a.type === 'count' && b.type === 'count') return a.count === b.count;
  if (a.type === 'rate' && b.type === 'rate') return sameRate(a.rate, b.rate);
  if ((a.type === 'number' && b.type === 'number') || (a.type === 'fraction' && b.type === 'fraction'))
    return near(numberOf(a)!, numberOf(b)!);
  if (a.type === 'timecode' && b.type === 'timecode') return sameAddress(a.timecode, b.timecode);
  if (a.type === 'moment' && b.type === 'moment') return a.moment.local === b.moment.local;
  if (a.type === 'flag' && b.type === 'flag') return a.flag === b.flag;
  if (a.type === 'triple' && b.type === 'triple') return a.triple.every((n, i) => near(n, b.triple[i]!));
  return (
    a.type === 'text' && b.type === 'text' && a.text.trim().toLowerCase() === b.text.trim().toLowerCase()
  );
}

/** A value as one number to sort by; `null` for text, flags and triples. Moments are seconds since 1970, timecodes seconds since midnight. */
export function numberOf(v: Value): number | null {
  switch (v.type) {
    case 'count':
      return v.count;
    case 'number':
      return v.number;
    case 'fraction':
      return v.num / v.den;
    case 'rate':
      return v.rate.num / v.rate.den;
    case 'timecode':
      return (v.timecode.frame * v.timecode.rate.den) / v.timecode.rate.num;
    case 'moment':
      return Date.parse(`${v.moment.local}Z`) / 1000;
    default:
      return null;
  }
}

/** A number as a person reads it: no more than six digits that count, no trailing zeros. */
const shortNumber = (n: number): string => String(Number(n.toPrecision(Math.abs(n) >= 1e6 ? 15 : 7)));

/** A value as a person reads it. `unit` is the catalogue's; shutter times stay fractions ("1/50 s"). */
export function formatValue(v: Value, unit = ''): string {
  const withUnit = (s: string): string =>
    unit === ''
      ? s
      : unit === '°' || unit === '%'
        ? s + unit
        : unit === 'f/' || unit === 'T'
          ? unit + s
          : `${s} ${unit}`;
  switch (v.type) {
    case 'text':
      return v.text;
    case 'count':
      return withUnit(String(v.count));
    case 'number':
      return withUnit(shortNumber(v.number));
    case 'fraction':
      return withUnit(
        v.den === 1
          ? String(v.num)
          : v.num === 1 || unit === ''
            ? `${v.num}${unit === '' ? ':' : '/'}${v.den}`
            : shortNumber(v.num / v.den),
      );
    case 'flag':
      return v.flag ? 'yes' : 'no';
    case 'triple':
      return v.triple.map(shortNumber).join(' ');
    case 'rate':
      return `${formatRate(v.rate)} fps`;
    case 'timecode':
      return formatTimecode(v.timecode);
    case 'moment':
      return v.moment.local.replace('T', ' ');
  }
}
