import type { FieldType } from './fields';

// What a person types for a value, as numbers that can be compared. A value may be a stretch: a date is a whole day.

export interface Stretch {
  /** The first that is in it, and the first that is not any more; both the same for a point. */
  from: number;
  to: number;
  /** Whether it is a time of day: compared with seconds since midnight. */
  ofDay: boolean;
}

const point = (n: number): Stretch => ({ from: n, to: n, ofDay: false });
const DAY = 86_400;

const BYTES: Record<string, number> = { '': 1, b: 1, kb: 1e3, mb: 1e6, gb: 1e9, tb: 1e12 };
const SECONDS: Record<string, number> = {
  '': 1,
  s: 1,
  sec: 1,
  min: 60,
  m: 60,
  h: 3600,
};

function withUnit(text: string, units: Record<string, number>): Stretch | null {
  const [, number, unit] = /^(\d+(?:[.,]\d+)?) ?([a-z]*)$/iu.exec(text) ?? [];
  const named = (unit ?? '').toLowerCase();
  return number === undefined || !Object.hasOwn(units, named)
    ? null
    : point(Number(number.replace(',', '.')) * units[named]!);
}

function secondsIn(text: string): Stretch | null {
  const [, h, m, s] = /^(?:(\d{1,3}):)?(\d{1,3}):(\d{1,2}(?:\.\d+)?)$/u.exec(text) ?? [];
  return m === undefined
    ? withUnit(text, SECONDS)
    : point(Number(h ?? 0) * 3600 + Number(m) * 60 + Number(s));
}

/** A number without regard to a unit behind it: 25 fps, 50 %, f/2.8, and fractions as 1/50. */
function plainNumber(text: string): Stretch | null {
  const [, n, den] = /^(?:f\/|T ?)?(-?\d+(?:[.,]\d+)?)(?:\/(\d+))? ?\D*$/iu.exec(text) ?? [];
  if (n === undefined || den === '0') return null;
  return point(Number(n.replace(',', '.')) / Number(den ?? 1));
}

/** An address as one number: frames count as thousandths of a second, so that addresses of any rate stand in order. */
export function addressNumber(text: string): number | null {
  const [, h, m, s, f] = /^(\d{1,2}):(\d\d):(\d\d)(?:[:;.](\d{1,3}))?$/u.exec(text) ?? [];
  return h === undefined ? null : (Number(h) * 3600 + Number(m) * 60 + Number(s)) * 1000 + Number(f ?? 0);
}

const NAMED_TIMES: Record<string, number> = { noon: 12 * 3600, midnight: 0 };

function timeOfDay(text: string): Stretch | null {
  const word = text.toLowerCase();
  if (Object.hasOwn(NAMED_TIMES, word))
    return { from: NAMED_TIMES[word]!, to: NAMED_TIMES[word]!, ofDay: true };
  const [, h, m, s] = /^(\d{1,2}):(\d\d)(?::(\d\d))?$/u.exec(text) ?? [];
  if (h === undefined || Number(h) > 24 || Number(m) > 59 || Number(s ?? 0) > 59) return null;
  const at = Number(h) * 3600 + Number(m) * 60 + Number(s ?? 0);
  return { from: at, to: s === undefined ? at + 60 : at + 1, ofDay: true };
}

function moment(text: string): Stretch | null {
  const [, date, time] = /^(\d{4}-\d\d-\d\d)(?:[T ](.+))?$/u.exec(text) ?? [];
  if (date === undefined) return timeOfDay(text);
  const day = Date.parse(`${date}T00:00:00Z`) / 1000;
  if (Number.isNaN(day) || new Date(day * 1000).toISOString().slice(0, 10) !== date) return null;
  if (time === undefined) return { from: day, to: day + DAY, ofDay: false };
  const at = timeOfDay(time);
  return at && { from: day + at.from, to: day + at.to, ofDay: false };
}

/** What a typed value stands for among values of a type that are compared by size; null where it is none. */
export function stretchOf(type: FieldType, typed: string): Stretch | null {
  const text = typed.trim();
  switch (type) {
    case 'number':
    case 'rate':
      return plainNumber(text);
    case 'seconds':
      return secondsIn(text);
    case 'bytes':
      return withUnit(text, BYTES);
    case 'moment':
      return moment(text);
    case 'timecode': {
      const at = addressNumber(text);
      // An address without frames is all of its second.
      return at === null
        ? null
        : { from: at, to: /^\d{1,2}:\d\d:\d\d$/u.test(text) ? at + 1000 : at + 1, ofDay: false };
    }
    default:
      return null;
  }
}

/** What to write for a type, where a value was not understood. */
export const HINTS: Partial<Record<FieldType, string>> = {
  number: 'a number, as 25',
  rate: 'a rate, as 25, or “edit” for that of the edit',
  seconds: 'a length, as 10s, 2min or 1:30',
  bytes: 'a size, as 500MB or 2GB',
  moment: 'a date or a time, as 2026-05-06, 14:30, noon or "2026-05-06 14:30"',
  timecode: 'a timecode, as 14:22:05:00',
  flag: 'yes or no',
};
