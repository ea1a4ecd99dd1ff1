import { OPS, SEARCH_FIELDS, searchField } from './fields';

/** What could be written next: what it is, what it stands in place of, and what it means. */
export interface Completion {
  text: string;
  /** Characters of the search it takes the place of. */
  from: number;
  to: number;
  meaning: string;
}

const OP_MEANING: Record<string, string> = {
  is: 'the same',
  has: 'these words in it',
  over: 'more than',
  under: 'less than',
  from: 'at least',
  to: 'at most',
  between: 'from one to the other: between 25 and 50',
  before: 'earlier than',
  after: 'later than',
};

/** Words that are written as one value. */
export const asValue = (words: string): string =>
  /[\s(),"\\]/u.test(words) ? `"${words.replace(/["\\]/gu, '\\$&')}"` : words;

/** What could be written at a place of a search. `values` gives what clips have of a field, the most frequent first. */
export function completions(
  text: string,
  caret: number,
  values: (field: string) => readonly string[],
  most = 8,
): Completion[] {
  const before = text.slice(0, caret);
  let from = caret;
  while (from > 0 && !/[\s(),"]/u.test(text[from - 1]!)) from--;
  const begun = text.slice(from, caret);
  const words = before
    .slice(0, from)
    .trim()
    .split(/[\s(),]+/u);
  const [field, last] = [searchField(words.at(-2) ?? ''), (words.at(-1) ?? '').toLowerCase()];
  const lower = begun.toLowerCase();
  const fits = (s: string): boolean => s.toLowerCase().startsWith(lower) && s.toLowerCase() !== lower;
  const give = (list: readonly { text: string; meaning: string }[]): Completion[] =>
    list.slice(0, most).map((c) => ({ ...c, from, to: caret }));
  if (field && (OPS[field.type] as readonly string[]).includes(last) && last !== '') {
    const known =
      field.states ??
      (field.type === 'flag' ? ['yes', 'no'] : field.type === 'moment' ? ['noon'] : values(field.word));
    return give(known.filter(fits).map((v) => ({ text: asValue(v), meaning: field.term })));
  }
  const asked = searchField(last);
  if (asked && (before.length === from || /\s$/u.test(before.slice(0, from))) && from > 0)
    return give(
      OPS[asked.type]
        .filter((o) => o !== 'with' && o !== 'no' && fits(o))
        .map((o) => ({ text: o, meaning: OP_MEANING[o] ?? '' })),
    );
  if (begun === '') return [];
  const fields = SEARCH_FIELDS.filter((f) => fits(f.word) || f.term.toLowerCase().startsWith(lower));
  const groups = [
    { text: 'any(', meaning: 'one of these holds' },
    { text: 'none(', meaning: 'none of these holds' },
    { text: 'all(', meaning: 'all of these hold' },
    { text: 'no', meaning: 'states nothing of a field: no proxy' },
    { text: 'with', meaning: 'states a field: with keyword' },
  ].filter((g) => fits(g.text));
  return give([...fields.map((f) => ({ text: f.word, meaning: f.term })), ...groups]);
}
