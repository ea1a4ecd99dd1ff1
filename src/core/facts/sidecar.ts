import { parseRate } from '../platform/timecode/rate';
import { canDrop, parseFramesFirst } from '../platform/timecode/timecode';
import { type FieldId, Said, type Statement } from './catalogue';
import { parseMoment, zoneOf } from './moments';
import { parsePlace, sayTags, secondsOf } from './userTags';
import { elements, type XmlNode } from './xml';

const attribute = (n: XmlNode, re: RegExp): string | undefined =>
  Object.entries(n.attributes).find(([k]) => re.test(k))?.[1];

/** Attributes by what they are called, for the elements whose names they go with. Units are the catalogue's. */
const DEVICE: readonly [FieldId, RegExp][] = [
  ['maker', /^(?:manufacturer|maker|make)$/i],
  ['model', /^model/i],
  ['serial', /^serial/i],
  ['firmware', /^(?:firmware|version)/i],
  ['cameraName', /^(?:label|letter|cameraid|name)$/i],
];

/**
 * What an XML sidecar says. Cameras name their elements differently, so the shape is read, not the names: a timecode
 * table is an element that states a rate and whose children carry eight-digit values, its first entry being the start; a
 * date is an element called …Date with a moment in it; a device has maker, model and serial among its attributes; a lens, an
 * exposure and a place likewise.
 */
export function statementsFromSidecar(root: XmlNode, zoneMinutes: number): Statement[] {
  const said = new Said('sidecar');
  for (const n of elements(root)) {
    sayTimecodeTable(said, n);
    const value = n.attributes.value ?? n.text;
    if (/(?:creation|record(?:ing)?)(?:date|start)?(?:time)?$/i.test(n.name) && value) {
      const moment = parseMoment(value, zoneMinutes);
      said.value('recordedAt', moment && { type: 'moment', moment }).text('zone', moment && zoneOf(value));
    }
    if (/^(?:device|camera|recorder)$/i.test(n.name))
      for (const [id, re] of DEVICE) said.text(id, attribute(n, re));
    if (/^lens$/i.test(n.name)) {
      said.text('lensModel', attribute(n, /^(?:model|name)/i)).text('lensSerial', attribute(n, /^serial/i));
      said
        .number('focalLength', numeric(attribute(n, /^focal/i)))
        .number('aperture', numeric(attribute(n, /^(?:aperture|iris|fnumber)/i)))
        .number('tStop', numeric(attribute(n, /^tstop/i)));
      said.number('focusDistance', numeric(attribute(n, /^(?:focusdistance|distance)/i)));
    }
    if (/^(?:gamma|curve|look)$/i.test(n.name))
      said
        .text('gamma', attribute(n, /^(?:curve|gamma|value)/i))
        .text('gamut', attribute(n, /^(?:gamut|primaries)/i));
    if (/^exposure$/i.test(n.name)) {
      said
        .count('iso', whole(attribute(n, /^(?:iso|ei|sensitivity)/i)))
        .count('whiteBalance', whole(attribute(n, /^(?:whitebalance|kelvin)/i)))
        .number('tint', numeric(attribute(n, /^tint/i)));
      said
        .shutter(secondsOf(attribute(n, /^shutter(?:speed|time)?$/i) ?? ''))
        .number('shutterAngle', numeric(attribute(n, /^shutterangle/i)))
        .number('gain', numeric(attribute(n, /^gain/i)));
      said.text('ndFilter', attribute(n, /^nd/i));
    }
    if (/^(?:place|position|location|gps)$/i.test(n.name)) {
      const place =
        parsePlace(value) ?? parsePlace(`${signed(attribute(n, /^lat/i))}${signed(attribute(n, /^lon/i))}`);
      if (place)
        said
          .number('latitude', place.latitude)
          .number('longitude', place.longitude)
          .number('altitude', place.altitude ?? numeric(attribute(n, /^alt/i)));
    }
    for (const [id, re] of [
      ['baseRate', /^(?:playbackfps|formatfps)$/i],
      ['sensorRate', /^(?:capturefps|sensorfps|recordfps)$/i],
    ] as const) {
      const rate = parseRate(attribute(n, re) ?? '');
      said.value(id, rate && { type: 'rate', rate });
    }
    // Single values under the names that tags have everywhere.
    if (n.children.length === 0 && value && !/date|time|codec|duration/i.test(n.name))
      sayTags(said, [{ key: n.name, text: value }], zoneMinutes);
  }
  return said.statements;
}

const numeric = (s: string | undefined): number | null => {
  const m = s === undefined ? null : /-?\d+(?:\.\d+)?/.exec(s);
  return m ? Number(m[0]) : null;
};
const whole = (s: string | undefined): number | null => {
  const n = numeric(s);
  return n === null ? null : Math.round(n);
};
const signed = (s: string | undefined): string => (s && /^\d/.test(s) ? `+${s}` : (s ?? ''));

function sayTimecodeTable(said: Said, n: XmlNode): void {
  const fps = attribute(n, /^(?:tc)?fps$/i);
  const first = n.children.find((c) => /^\d{8}$/.test(c.attributes.value ?? ''));
  const rate = fps && first ? parseRate(fps) : null;
  if (!rate || !first) return;
  const drop = /^(?:true|1)$/i.test(attribute(n, /^drop/i) ?? '') && canDrop(rate);
  const tc = parseFramesFirst(first.attributes.value!, rate, drop);
  if (tc)
    said
      .value('start', { type: 'timecode', timecode: tc })
      .value('timecodeRate', { type: 'rate', rate })
      .value('drop', { type: 'flag', flag: drop });
}
