export interface CardWords {
  job: string;
  day: number;
  date: string | null;
  camera: string;
  card: string;
}

/** What can be in braces in a folder pattern, with its meaning. */
export const PATTERN_WORDS = {
  job: 'the job’s code',
  day: 'the day’s number',
  date: 'its date',
  camera: 'what the camera is called',
  card: 'the card’s id',
} as const;

const IN_BRACES = /\{([^{}]*)\}/g;

/** Where the ticked clips of a card come to on the shelf, before they are named and placed. */
export const incomingFolder = (card: string): string => `Incoming/${card}`;

export const DEFAULT_PATTERN = '{job}/Day {day}/{card}';

/** What is wrong with a folder or name that has words in braces, said in words; `null` where nothing is. Folders are parted by "/". */
export function wordsFault(
  pattern: string,
  known: Readonly<Record<string, string>> = PATTERN_WORDS,
): string | null {
  for (const [, word] of pattern.matchAll(IN_BRACES))
    if (!Object.hasOwn(known, word!))
      return `{${word}} is not known: use ${Object.keys(known)
        .map((w) => `{${w}}`)
        .join(' ')}`;
  if (/[{}]/.test(pattern.replace(IN_BRACES, ''))) return 'a brace is not closed';
  if (pattern.split('/').some((p) => p.trim() === '..' || p.trim() === '.'))
    return 'a folder cannot be . or ..';
  return null;
}

/** The same of a pattern that gives each card a folder of its own. */
export function patternFault(pattern: string): string | null {
  if (pattern.trim() === '') return 'give a folder, such as {job}/{card}';
  return (
    wordsFault(pattern) ??
    (pattern.includes('{card}') ? null : 'without {card} every card would go to one folder')
  );
}

/** A pattern with its words in place of the braces; none of them leads into another folder. */
export const filledPattern = (pattern: string, value: (word: string) => string): string =>
  pattern.replace(IN_BRACES, (_, word: string) => value(word).replace(/\//g, '_'));

/** A folder or name with "_" for characters that some volumes refuse, and no spaces or dots at its end. */
export const plainPart = (part: string): string =>
  part
    .replace(/[\u0000-\u001f\u007f<>:"\\|?*]/g, '_')
    .trim()
    .slice(0, 120)
    .replace(/[. ]{1,120}$/, '');

/** The folder a pattern gives for a card. Characters that some volumes refuse become "_"; a missing date is "no date". */
export const cardFolder = (pattern: string, words: CardWords): string =>
  filledPattern(pattern, (word) => String(words[word as keyof CardWords] ?? `no ${word}`))
    .split('/')
    .map(plainPart)
    .filter((p) => p !== '')
    .join('/');
