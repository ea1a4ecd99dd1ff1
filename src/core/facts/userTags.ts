import type { FieldId, Said } from './catalogue';
import { parseMoment, zoneOf } from './moments';

/** Text a file carries under a key: user data of MP4 and MOV, tags of Matroska, ffprobe's tags. */
export interface UserTag {
  key: string;
  text: string;
}

/** What the last part of a key is called in the formats' own descriptions and by cameras, and which field it states. */
const TEXTS: readonly [RegExp, FieldId][] = [
  [/^(?:make|mak|manufacturer|maker)$/, 'maker'],
  [/^(?:model|mod|modelname)$/, 'model'],
  [/^(?:serial(?:number|no)?|deviceserial(?:no|number)?)$/, 'serial'],
  [/^(?:firmware|firmwareversion|fwversion)$/, 'firmware'],
  [/^(?:title|nam|displayname)$/, 'title'],
  [/^(?:description|des|desc|dscp)$/, 'description'],
  [/^(?:comment|cmt)$/, 'comment'],
  [/^(?:reel|reelname|reelid|tapename|reel_name|tape_name)$/, 'reel'],
  [/^(?:scene|scn)$/, 'scene'],
  [/^(?:take|tak)$/, 'take'],
  [/^(?:project|projectname|production)$/, 'project'],
  [/^(?:software|swr|too|encoder|encodedby|enc)$/, 'software'],
  [/^(?:lensmodel|lens|lensname)$/, 'lensModel'],
  [/^(?:operator|cameraoperator|artist|art|author|aut|cameraman)$/, 'operator'],
  [/^(?:cameraname|cameraid|cameraidentifier|cameralabel)$/, 'cameraName'],
  [/^(?:uniqueid|umid|uid|assetid|contentidentifier|clipid)$/, 'uniqueId'],
  [/^(?:gamma|gammacurve|logcurve)$/, 'gamma'],
  [/^(?:gamut|colou?rspace|colou?rgamut)$/, 'gamut'],
];
const NUMBERS: readonly [RegExp, FieldId][] = [
  [/^(?:focallength)$/, 'focalLength'],
  [/^(?:focallength35|focallength35mmequivalent|focallengthin35mmformat)$/, 'focalLength35'],
  [/^(?:aperture|fnumber|iris)$/, 'aperture'],
  [/^(?:tstop)$/, 'tStop'],
  [/^(?:shutterangle)$/, 'shutterAngle'],
  [/^(?:exposurebias|exposurecompensation)$/, 'exposureBias'],
  [/^(?:gain|gaindb)$/, 'gain'],
  [/^tint$/, 'tint'],
];
const COUNTS: readonly [RegExp, FieldId][] = [
  [/^(?:iso|isospeed|sensitivity|ei)$/, 'iso'],
  [/^(?:whitebalance|whitebalancekelvin|colou?rtemperature)$/, 'whiteBalance'],
];

const lastOf = (whole: string): string => lastPart(whole.slice(-200));
const lastPart = (key: string): string =>
  key
    .slice(Math.max(key.lastIndexOf('.'), key.lastIndexOf(':')) + 1)
    .replace(/^\u00a9/, '')
    .toLowerCase()
    .replace(/[\s_-]+/g, '');

/** No tag says more in so many characters. */
const LONGEST = 1000;

/** A point as ISO 6709 writes it: "+52.1234+004.5678+012.3/", degrees with decimals. `null` for other forms and what is off the globe. */
export function parsePlace(
  text: string,
): { latitude: number; longitude: number; altitude: number | null } | null {
  const m = /^([+-]\d{1,2}(?:\.\d{1,12})?)([+-]\d{1,3}(?:\.\d{1,12})?)([+-]\d{1,9}(?:\.\d{1,12})?)?/.exec(
    text.slice(0, 80).trim(),
  );
  if (!m) return null;
  const [latitude, longitude] = [Number(m[1]), Number(m[2])];
  if (Math.abs(latitude) > 90 || Math.abs(longitude) > 180 || (latitude === 0 && longitude === 0))
    return null;
  return { latitude, longitude, altitude: m[3] === undefined ? null : Number(m[3]) };
}

/** States what the keys are known to mean. Keys that are unknown say nothing. `zoneMinutes` is the job's offset, for times in UTC. */
export function sayTags(said: Said, tags: readonly UserTag[], zoneMinutes: number): void {
  for (const { key, text: whole } of tags) {
    const text = whole.slice(0, LONGEST);
    const name = lastOf(key);
    const [number] = /-?\d+(?:\.\d+)?/.exec(text) ?? [];
    for (const [re, id] of TEXTS) if (re.test(name)) said.text(id, text);
    for (const [re, id] of NUMBERS)
      if (re.test(name) && number !== undefined) said.number(id, Number(number));
    for (const [re, id] of COUNTS)
      if (re.test(name) && number !== undefined) said.count(id, Math.round(Number(number)));
    if (/^(?:shutter|shutterspeed|exposuretime)$/.test(name)) said.shutter(secondsOf(text));
    if (/^(?:xyz|iso6709|location|loci)$/.test(name)) {
      const place = parsePlace(text);
      if (place)
        said
          .number('latitude', place.latitude)
          .number('longitude', place.longitude)
          .number('altitude', place.altitude);
    }
    if (/^(?:creationdate|day|date|dateutc|datetimeoriginal)$/.test(name)) {
      const moment = parseMoment(text, zoneMinutes);
      said.value('recordedAt', moment && { type: 'moment', moment }).text('zone', moment && zoneOf(text));
    }
  }
}

/** An exposure time: "1/50", "0.02", "1/50 s". `null` where it is none. */
export function secondsOf(text: string): number | null {
  const said = text.slice(0, 80).trim();
  const fraction = /(\d{1,9}(?:\.\d{1,9})?)\s{0,4}\/\s{0,4}(\d{1,9}(?:\.\d{1,9})?)/.exec(said);
  if (fraction) return Number(fraction[2]) > 0 ? Number(fraction[1]) / Number(fraction[2]) : null;
  const plain = /^(\d{1,9}(?:\.\d{1,12})?)\s{0,4}s?(?:ec)?$/i.exec(said);
  return plain && Number(plain[1]) > 0 ? Number(plain[1]) : null;
}
