import type { Moment } from './values';

/**
 * A date and time as containers, sidecars and tags write it. With "Z" it is UTC, shown in the job's zone; with an offset, the
 * local time it states; without either, local time. Dates before 1990 are a clock that was never set (1904 is zero in MP4
 * and MOV, 1970 on most systems, 1980 on FAT), those after 2100 are damage.
 */
export function parseMoment(text: string, zoneMinutes: number): Moment | null {
  const m =
    /^(\d{4})[-:](\d\d)[-:](\d\d)[T ](\d\d:\d\d:\d\d)(?:[.,]\d{1,12})?\s{0,4}(Z|[+-]\d\d:?\d\d)?$/.exec(
      text.slice(0, 80).trim(),
    );
  if (!m) return null;
  const [date, time, zone] = [`${m[1]}-${m[2]}-${m[3]}`, m[4]!, m[5]];
  const asUtc = Date.parse(`${date}T${time}Z`);
  if (Number.isNaN(asUtc) || Number(m[1]) < 1990 || Number(m[1]) > 2100) return null;
  if (zone === undefined) return { local: `${date}T${time}`, offset: null };
  if (zone === 'Z')
    return { local: new Date(asUtc + zoneMinutes * 60_000).toISOString().slice(0, 19), offset: zoneMinutes };
  const sign = zone.startsWith('-') ? -1 : 1;
  const digits = zone.replace(/\D/g, '');
  return {
    local: `${date}T${time}`,
    offset: sign * (Number(digits.slice(0, 2)) * 60 + Number(digits.slice(2, 4))),
  };
}

/** The offset from UTC that a date and time states itself, as "+02:00"; `null` where it states none, or UTC. */
export function zoneOf(text: string): string | null {
  const m = /[T ]\d\d:\d\d:\d\d(?:[.,]\d{1,12})?\s{0,4}([+-]\d\d):?(\d\d)$/.exec(text.slice(0, 80).trim());
  return m ? `${m[1]}:${m[2]}` : null;
}

/** Seconds since 1904-01-01 UTC, as MP4 and MOV count, in the job's zone. `null` for a clock that was never set. */
export function momentOf1904(seconds: number, zoneMinutes: number): Moment | null {
  const unix = seconds - 2_082_844_800;
  if (!(unix > 631_152_000 && unix < 4_102_444_800)) return null;
  return {
    local: new Date((unix + zoneMinutes * 60) * 1000).toISOString().slice(0, 19),
    offset: zoneMinutes,
  };
}
