import { parseRate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import { type FieldId, fieldOf } from './catalogue';
import { parseMoment } from './moments';
import { secondsOf } from './userTags';
import type { Value } from './values';
import type { Rate } from '../platform/timecode/rate';

/** What a person typed for a field, as a value of its type. `null` where it is none; `rate` is the clip's, which a timecode needs. */
export function parseValue(id: FieldId, typed: string, rate: Rate | null): Value | null {
  const text = typed.trim();
  if (text === '') return null;
  const plain = /^-?\d+(?:\.\d+)?/.exec(text.replace(/^(?:f\/|T)\s*/, ''))?.[0];
  switch (fieldOf(id).type) {
    case 'text':
      return { type: 'text', text: text.slice(0, 400) };
    case 'count':
      return plain !== undefined && Number.isSafeInteger(Number(plain))
        ? { type: 'count', count: Number(plain) }
        : null;
    case 'number':
      return plain !== undefined ? { type: 'number', number: Number(plain) } : null;
    case 'flag':
      return /^(?:yes|true|1|no|false|0)$/i.test(text)
        ? { type: 'flag', flag: /^(?:yes|true|1)$/i.test(text) }
        : null;
    case 'rate': {
      const r = parseRate(text.trim().replace(/fps$/i, ''));
      return r && { type: 'rate', rate: r };
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
      if (ratio && Number(ratio[2]) > 0)
        return { type: 'fraction', num: Number(ratio[1]), den: Number(ratio[2]) };
      const s = secondsOf(text);
      return s === null ? null : { type: 'fraction', num: Math.round(s * 1000), den: 1000 };
    }
  }
}
