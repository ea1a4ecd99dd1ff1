import * as z from 'zod';
import { keywordKey, tidyName } from './keyword';

/**
 * Where a rule takes its keywords from: `search` gives one to all that a search finds, `field` makes what a field states one, `folders`
 * what the folders are called that a clip was taken in from.
 */
export const RuleKind = z.enum(['search', 'field', 'folders']);
export type RuleKind = z.infer<typeof RuleKind>;

/** A rule, in plain texts. */
export const Rule = z.object({
  kind: RuleKind,
  /** Of a search: its keyword. Of a field: what is put before each value; may be empty. */
  words: z.string().max(120).default(''),
  query: z.string().max(4000).default(''),
  /** A field of the catalogue. */
  field: z.string().max(40).default(''),
  /** Numbers of the folders, the outermost is 1, with blanks between; none for all. */
  levels: z
    .string()
    .regex(/^(?:\d{1,2}(?: \d{1,2})*)?$/)
    .default(''),
  /** What never becomes a keyword by it, a line each. */
  without: z.string().max(20_000).default(''),
});
export type Rule = z.infer<typeof Rule>;

/** What a rule is given of a clip. */
export interface Ruled {
  /** Whether its search finds it. */
  found: boolean;
  /** What its field states; null where it states nothing. */
  value: string | null;
  /** Folders it was taken in from, outermost first. */
  folders: readonly string[];
}

/** Folders of which every camera's card is made (DCF 2.0, CIPA DC-009: `DCIM`, three digits with five letters), and those that say what is in all of them. */
const OF_CARDS =
  /^(?:dcim|\d{3}[a-z\d_]{5}|clips?|clip\d+|contents?|private|video|audio|sound|media|bdmv|avchd|stream|misc|offloaded)$/iu;

export const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean);

/** The keywords that a rule gives to a clip, as they are kept, each once. */
export function keywordsBy(rule: Rule, of: Ruled): string[] {
  const names = rawOf(rule, of).flatMap((n) => tidyName(n) ?? []);
  const left = new Set(linesOf(rule.without).map(keywordKey));
  const kept = new Map<string, string>();
  for (const name of names) {
    const key = keywordKey(name);
    if (!left.has(key) && !kept.has(key)) kept.set(key, name);
  }
  return [...kept.values()];
}

function rawOf(rule: Rule, { found, value, folders }: Ruled): string[] {
  switch (rule.kind) {
    case 'search':
      return found ? [rule.words] : [];
    case 'field':
      // A field of several values has them with semicolons between.
      return (value ?? '')
        .split(';')
        .filter((v) => v.trim() !== '')
        .map((v) => `${rule.words} ${v}`);
    case 'folders': {
      const levels = rule.levels === '' ? null : new Set(rule.levels.split(' ').map(Number));
      return folders.filter((name, i) => (levels ? levels.has(i + 1) : true) && !OF_CARDS.test(name));
    }
  }
}

/** A rule in words. `term` is what its field is called. */
export function ruleWords({ kind, words, query, levels }: Rule, term: string): string {
  switch (kind) {
    case 'search':
      return `${words} where ${query}`;
    case 'field':
      return `${term} of the clip${words === '' ? '' : `, behind “${words}”`}`;
    case 'folders':
      return levels === ''
        ? 'names of all folders'
        : `names of folders at level ${levels.replaceAll(' ', ', ')}`;
  }
}
