/** Where the parts of a moment stand in "2026-05-06T14:22:05". */
const PARTS: Record<string, readonly [number, number]> = {
  YYYY: [0, 4],
  YY: [2, 4],
  MM: [5, 7],
  DD: [8, 10],
  hh: [11, 13],
  mm: [14, 16],
  ss: [17, 19],
};
/** Formats taken apart; there are few, and clips are many. */
const known = new Map<string, readonly (string | readonly [number, number])[]>();

function apart(format: string): readonly (string | readonly [number, number])[] {
  const before = known.get(format);
  if (before) return before;
  if (known.size > 100) known.clear();
  const now = format
    .split(/(YYYY|YY|MM|DD|hh|mm|ss)/u)
    .map((text) => (Object.hasOwn(PARTS, text) ? PARTS[text]! : text));
  known.set(format, now);
  return now;
}

/** A local moment ("2026-05-06T14:22:05") in a format of YYYY, YY, MM, DD, hh, mm and ss; what is else in it stays. */
export function formatMoment(local: string, format: string): string {
  let out = '';
  for (const part of apart(format)) out += typeof part === 'string' ? part : local.slice(part[0], part[1]);
  return out;
}

/** A format as a mask in which # is a digit. */
export const maskOf = (format: string): string =>
  apart(format)
    .map((part) => (typeof part === 'string' ? part : '#'.repeat(part[1] - part[0])))
    .join('');
