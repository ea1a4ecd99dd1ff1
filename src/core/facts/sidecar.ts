import { parseRate } from '../timecode/rate';
import { parseFramesFirst } from '../timecode/timecode';
import type { FieldId, Statement } from './catalogue';
import { parseMoment } from './probe';

/**
 * A parsed XML element: attributes and children by name, as fast-xml-parser gives them with `preserveOrder`. Names
 * carry no namespace prefix.
 */
export interface XmlNode { name: string; attributes: Record<string, string>; children: XmlNode[] }

/**
 * What an XML sidecar says. Cameras name their elements differently, so the shape is read, not the names: a timecode
 * table is an element that states a rate and whose children carry eight-digit values, its first entry being the start; a
 * date is an element called …Date with a moment in it; a device has maker, model and serial among its attributes.
 */
export function statementsFromSidecar(root: XmlNode, zoneMinutes: number): Statement[] {
  const out: Statement[] = [];
  const say = (field: FieldId, value: Statement['value']) => {
    if (!out.some((s) => s.field === field)) out.push({ field, value, source: 'sidecar' });
  };
  const attribute = (n: XmlNode, re: RegExp): string | undefined => Object.entries(n.attributes).find(([k]) => re.test(k))?.[1];
  const walk = (n: XmlNode, depth: number): void => {
    if (depth > 32) return;
    const fps = attribute(n, /^(?:tc)?fps$/i);
    const first = n.children.find((c) => /^\d{8}$/.test(c.attributes.value ?? ''));
    const rate = fps && first ? parseRate(fps) : null;
    if (rate && first) {
      const drop = /^(?:true|1)$/i.test(attribute(n, /^drop/i) ?? '');
      const tc = parseFramesFirst(first.attributes.value!, rate, drop);
      if (tc) say('start', { type: 'timecode', timecode: tc });
    }
    if (/creationdate$/i.test(n.name) && n.attributes.value) {
      const moment = parseMoment(n.attributes.value, zoneMinutes);
      if (moment) say('recordedAt', { type: 'moment', moment });
    }
    if (/^(?:device|camera)$/i.test(n.name)) {
      for (const [field, re] of [['maker', /^(?:manufacturer|maker|make)$/i], ['model', /^model/i], ['serial', /^serial/i]] as const) {
        const words = attribute(n, re)?.trim();
        if (words) say(field, { type: 'text', text: words.slice(0, 200) });
      }
    }
    const base = parseRate(attribute(n, /^(?:playbackfps|formatfps)$/i) ?? '');
    if (base) say('baseRate', { type: 'rate', rate: base });
    for (const c of n.children) walk(c, depth + 1);
  };
  walk(root, 0);
  return out;
}
