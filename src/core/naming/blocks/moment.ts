const PARTS: Record<string, (local: string) => string> = {
  YYYY: (t) => t.slice(0, 4),
  YY: (t) => t.slice(2, 4),
  MM: (t) => t.slice(5, 7),
  DD: (t) => t.slice(8, 10),
  hh: (t) => t.slice(11, 13),
  mm: (t) => t.slice(14, 16),
  ss: (t) => t.slice(17, 19),
};
const TOKEN = /YYYY|YY|MM|DD|hh|mm|ss/gu;

/** A local moment ("2026-05-06T14:22:05") in a format of YYYY, YY, MM, DD, hh, mm and ss; what is else in it stays. */
export const formatMoment = (local: string, format: string): string =>
  format.replace(TOKEN, (token) => PARTS[token]!(local));

/** A format as a mask in which # is a digit. */
export const maskOf = (format: string): string => format.replace(TOKEN, (token) => '#'.repeat(token.length));
