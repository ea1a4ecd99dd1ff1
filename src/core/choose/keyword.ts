import { fold } from './fold';

/** Characters of a keyword, of the name of a bin, a range or a search. */
export const LONGEST_NAME = 120;

/** A name as it is kept: in one Unicode form, no blanks at its ends or in a row, no line breaks. Null where nothing is left or it is too long. */
export function tidyName(typed: string): string | null {
  const name = typed
    .normalize('NFC')
    .replace(/[\p{Cc}\p{Zl}\p{Zp}\s]+/gu, ' ')
    .trim();
  return name === '' || [...name].length > LONGEST_NAME ? null : name;
}

/** What tells a keyword from others: those that differ in case or Unicode form only are one. Accents count. */
export const keywordKey = (name: string): string => name.normalize('NFKC').toLowerCase().normalize('NFC');

/** Keywords that fit what is typed, those that begin so first, then those of which a word does, the most used first. */
export function completeKeyword<K extends { name: string; clips: number }>(
  keywords: readonly K[],
  typed: string,
  most = 8,
): K[] {
  const wanted = fold(typed.trim());
  const rank = (k: K): number => {
    const name = fold(k.name);
    if (name.startsWith(wanted)) return 0;
    if (name.includes(` ${wanted}`)) return 1;
    return name.includes(wanted) ? 2 : 3;
  };
  return keywords
    .map((k) => ({ k, rank: rank(k) }))
    .filter((r) => r.rank < 3)
    .sort((a, b) => a.rank - b.rank || b.k.clips - a.k.clips || (a.k.name < b.k.name ? -1 : 1))
    .slice(0, most)
    .map((r) => r.k);
}
