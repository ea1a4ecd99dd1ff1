import { isPlausible, parseRate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import { type FieldId, fieldOf, Said } from './catalogue';
import { parseMoment } from './moments';
import { secondsOf } from './userTags';
import { Value } from './values';
import type { Rate } from '../platform/timecode/rate';

/** What a person typed for a field, as a value of its type. `null` where it is none; `rate` is the clip's, which a timecode needs. */
export function parseValue(id: FieldId, typed: string, rate: Rate | null): Value | null {
  const value = valueIn(id, typed.trim(), rate);
  return value && Value.safeParse(value).success ? value : null;
}

/** A number with its unit: "f/2.8", "2,8", "50 mm". A comma stands for the point, but for one that may part thousands: "1,250" is none. */
function numberTyped(text: string): number | null {
  if (/^-?[1-9]\d{0,2},\d{3}(?!\d)/.test(text)) return null;
  const [, number] = /^(?:f\/|T)?\s*(-?\d+(?:[.,]\d+)?)(?![.,])[^\d]*$/.exec(text) ?? [];
  return number === undefined ? null : Number(number.replace(',', '.'));
}

function valueIn(id: FieldId, text: string, rate: Rate | null): Value | null {
  if (text === '') return null;
  switch (fieldOf(id).type) {
    case 'text':
      return { type: 'text', text: text.slice(0, 400) };
    case 'count': {
      const n = numberTyped(text);
      return n !== null && n >= 0 ? { type: 'count', count: n } : null;
    }
    case 'number':
      return new Said('person').number(id, numberTyped(text)).statements[0]?.value ?? null;
    case 'flag':
      return /^(?:yes|true|1|no|false|0)$/i.test(text)
        ? { type: 'flag', flag: /^(?:yes|true|1)$/i.test(text) }
        : null;
    case 'rate': {
      const r = parseRate(text.trim().replace(/fps$/i, ''));
      return r && isPlausible(r) ? { type: 'rate', rate: r } : null;
    }
    case 'timecode': {
      const tc = rate && parseTimecode(text, rate);
      return tc && { type: 'timecode', timecode: tc };
    }
    case 'moment': {
      const moment = parseMoment(/:\d\d:\d\d/.test(text) ? text : `${text}:00`, 0);
      return moment && { type: 'moment', moment };
    }
    case 'triple': {
      const n = text.split(/[\s,]+/).map(Number);
      return n.length === 3 && n.every(Number.isFinite)
        ? { type: 'triple', triple: n as [number, number, number] }
        : null;
    }
    case 'fraction': {
      const ratio = /^(\d+)\s*[/:]\s*(\d+)/.exec(text);
      if (ratio && Number(ratio[1]) > 0 && Number(ratio[2]) > 0)
        return { type: 'fraction', num: Number(ratio[1]), den: Number(ratio[2]) };
      const s = secondsOf(text);
      return s !== null && s >= 0.001 ? { type: 'fraction', num: Math.round(s * 1000), den: 1000 } : null;
    }
  }
}
