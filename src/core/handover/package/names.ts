import { ALL_SYSTEMS, checkName } from '../../naming';
import { type CardWords, filledPattern, PATTERN_WORDS, plainPart, wordsFault } from '../../offload';
import type { DiskPath } from '../../platform/names';

/** What the slate and the camera said of a clip, and what a pattern of names may hold of it; the fields of facts are called alike. */
const SAID_WORDS = {
  reel: 'its reel',
  scene: 'its scene',
  take: 'its take',
} as const;
type SaidWord = keyof typeof SAID_WORDS;

/** What can be in braces in a pattern of names, with its meaning. */
export const NAME_PATTERN_WORDS = {
  name: 'what the file is called here',
  original: 'what the camera called the clip',
  ...PATTERN_WORDS,
  ...SAID_WORDS,
} as const;

/** The words of a clip. `original` is without extension; what nobody said is null. */
export interface NameWords extends CardWords, Record<SaidWord, string | null> {
  original: DiskPath;
}

/** The pattern that one of one's own begins as. */
export const NAME_PATTERN = '{job}_{name}';

/** Those of the slate's and the camera's words that a pattern holds. */
export const saidIn = (pattern: string): SaidWord[] =>
  (Object.keys(SAID_WORDS) as SaidWord[]).filter((w) => pattern.includes(`{${w}}`));

/** What is wrong with a pattern of names, in words; null where nothing is. */
export const namesFault = (pattern: string): string | null =>
  pattern.trim() === ''
    ? 'give names, such as {job}_{name}'
    : pattern.includes('/')
      ? 'a file name cannot hold a /: folders have a pattern of their own'
      : wordsFault(pattern, NAME_PATTERN_WORDS);

/**
 * What a pattern makes of a file's name, both without extension: where that is no name that works on the volumes packages travel on, the
 * file keeps its own, and the fault says why in words. A word that nobody said is written "no scene".
 */
export function nameBy(
  pattern: string,
  words: NameWords,
  name: DiskPath,
): { name: DiskPath; fault: string | null } {
  const value = (word: string): string =>
    word === 'name' ? name : String(words[word as keyof NameWords] ?? `no ${word}`);
  const made = plainPart(filledPattern(pattern, value));
  const wrong = made === name ? undefined : checkName(made, ALL_SYSTEMS).find((p) => p.level === 'stop');
  return wrong
    ? { name, fault: `it keeps its name, for by the pattern ${wrong.text}` }
    : { name: made, fault: null };
}
