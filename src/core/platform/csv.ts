import { parse } from 'csv-parse/browser/esm/sync';
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

/** What separates the columns of the head: of a timecode that drops frames a semicolon is a part. What a spreadsheet copies has tabs. */
function separatorOf(text: string): string {
  const head = text.split('\n', 1)[0] ?? '';
  const [tab, semicolon, comma] = ['\t', ';', ','].map((s) => head.split(s).length) as [
    number,
    number,
    number,
  ];
  return tab > 1 ? '\t' : semicolon > comma ? ';' : ',';
}

/**
 * The lines of a table that somebody wrote: separated by commas, semicolons or tabs, whatever its line ends, with or without the mark of
 * UTF-8. Throws, in words for a person, where it cannot be read.
 */
export function readTable(text: string): string[][] {
  try {
    return parse(text.replace(/^\ufeff/u, ''), {
      delimiter: separatorOf(text),
      relax_column_count: true,
      skip_empty_lines: true,
      trim: true,
    });
  } catch (e) {
    throw new Error(
      `The list cannot be read: ${e instanceof Error ? e.message : String(e)}. Nothing was taken from it.`,
    );
  }
}
