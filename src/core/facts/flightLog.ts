import { Said, type Statement } from './catalogue';
import { parseMoment } from './moments';
import { secondsOf } from './userTags';

/** One entry of a flight log: when in the clip, and what it said then. Seconds, degrees, metres; `null` where it did not say. */
export interface FlightPoint {
  at: number;
  latitude: number | null;
  longitude: number | null;
  altitude: number | null;
  height: number | null;
  iso: number | null;
  shutter: number | null;
  aperture: number | null;
  whiteBalance: number | null;
  recordedAt: string | null;
}

/** Words that logs use, and what they measure. A word may stand before its value with a sign, a colon or a bracket between. */
const WORDS = {
  latitude: 'lat(?:itude)?',
  longitude: 'lon(?:g(?:itude)?)?',
  altitude: 'abs_?alt|altitude|alt',
  height: 'rel_?alt|height|agl',
  iso: 'iso',
  aperture: 'f(?:num(?:ber)?|stop)?',
  whiteBalance: 'ct|kelvin|wb',
} as const;
const FIND = Object.fromEntries(
  Object.entries(WORDS).map(([k, w]) => [
    k,
    new RegExp(`(?:^|[\\s\\[(,;])(?:${w})\\s{0,4}[:=]?\\s{0,4}/?\\s{0,4}(-?\\d{1,12}(?:\\.\\d{1,12})?)`, 'i'),
  ]),
) as Record<keyof typeof WORDS, RegExp>;
const CUE = /(\d{1,2}):(\d\d):(\d\d)[,.](\d{1,3})\s{0,4}-->/;
/** A log longer than this many entries is read as far as that: a day at one a second. */
const MAX_POINTS = 100_000;
/** An entry longer than this, characters, is read as far as that. */
const LONGEST = 4096;

/** Reads a subtitle file (SubRip, common practice) that a flying camera writes beside its clip. Entries that say nothing known are left out. */
export function readFlightLog(text: string): FlightPoint[] {
  const out: FlightPoint[] = [];
  for (const block of text
    .replace(/^\ufeff/, '')
    .replace(/\r\n?/g, '\n')
    .split(/\n[ \t]{0,8}\n/)) {
    if (out.length >= MAX_POINTS) break;
    const entry = block.slice(0, LONGEST);
    const cue = CUE.exec(entry);
    if (!cue) continue;
    const body = entry
      .slice(cue.index + cue[0].length)
      .replace(/^[^\n]*\n/, '')
      .replace(/<[^>]{0,200}>/g, ' ');
    const of = (k: keyof typeof WORDS): number | null => {
      const m = FIND[k].exec(body);
      return m && Number.isFinite(Number(m[1])) ? Number(m[1]) : null;
    };
    const [latitude, longitude] = [of('latitude'), of('longitude')];
    const onGlobe =
      latitude !== null &&
      longitude !== null &&
      Math.abs(latitude) <= 90 &&
      Math.abs(longitude) <= 180 &&
      !(latitude === 0 && longitude === 0);
    const shutter =
      /shutter\s{0,4}[:=]?\s{0,4}(\d{1,9}(?:\.\d{1,9})?(?:\s{0,4}\/\s{0,4}\d{1,9}(?:\.\d{1,9})?)?)/i.exec(
        body,
      );
    const moment = /(\d{4}-\d\d-\d\d)[ T](\d\d:\d\d:\d\d)/.exec(body);
    const point: FlightPoint = {
      at:
        Number(cue[1]) * 3600 + Number(cue[2]) * 60 + Number(cue[3]) + Number(cue[4]!.padEnd(3, '0')) / 1000,
      latitude: onGlobe ? latitude : null,
      longitude: onGlobe ? longitude : null,
      altitude: of('altitude'),
      height: of('height'),
      iso: of('iso'),
      shutter: shutter ? secondsOf(shutter[1]!) : null,
      aperture: of('aperture'),
      whiteBalance: of('whiteBalance'),
      recordedAt: moment ? `${moment[1]}T${moment[2]}` : null,
    };
    if (Object.entries(point).some(([k, v]) => k !== 'at' && v !== null)) out.push(point);
  }
  return out;
}

/** A clip's facts by its flight log: where it began, how it was exposed there, and how high it came. */
export function statementsFromFlightLog(points: readonly FlightPoint[], zoneMinutes: number): Statement[] {
  const said = new Said('flightLog');
  const first = <K extends keyof FlightPoint>(k: K) => points.find((p) => p[k] !== null)?.[k] ?? null;
  const heights = points.flatMap((p) => (p.height === null ? [] : [p.height]));
  said
    .number('latitude', first('latitude'))
    .number('longitude', first('longitude'))
    .number('altitude', first('altitude'))
    .number('flightHeight', first('height'));
  if (heights.length > 0)
    said.number(
      'flightHighest',
      heights.reduce((a, b) => Math.max(a, b)),
    );
  said
    .count('iso', first('iso'))
    .shutter(first('shutter'))
    .number('aperture', first('aperture'))
    .count('whiteBalance', first('whiteBalance'));
  const recorded = first('recordedAt');
  const moment = recorded ? parseMoment(recorded, zoneMinutes) : null;
  said.value('recordedAt', moment && { type: 'moment', moment });
  return said.statements;
}
