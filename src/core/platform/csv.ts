import { stringify } from 'csv-stringify/sync';

/** A cell that a spreadsheet would take for a formula gets a sign before it that makes it text, also where its first sign is a full-width one. Numbers keep their minus. */
const harmless = (s: string): string =>
  /^[=+\-@\t\r\n\uff0b\uff0d\uff1d\uff20]/.test(s) && !/^-?\d+(?:\.\d+)?$/.test(s) ? `'${s}` : s;

/** A table by RFC 4180 in UTF-8 with its mark, which spreadsheets look for. Texts that would be formulas are made harmless. */
export const csv = (heads: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
  `\ufeff${stringify(
    [heads, ...rows.map((r) => r.map((c) => (typeof c === 'string' ? harmless(c) : String(c))))],
    { record_delimiter: '\r\n', quoted_match: /[\r\n]/ },
  )}`;
