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

/** Where the ticked clips of a card come to on the shelf, before they are named and placed. */
export const incomingFolder = (card: string): string => `Incoming/${card}`;

export const DEFAULT_PATTERN = '{job}/Day {day}/{card}';

/** What is wrong with a folder that has words in braces, said in words; `null` where nothing is. Folders are parted by "/". */
export function wordsFault(pattern: string): string | null {
  const unknown = /\{([^{}]*)\}/g;
  for (const [, word] of pattern.matchAll(unknown))
    if (!Object.hasOwn(PATTERN_WORDS, word!))
      return `{${word}} is not known: use ${Object.keys(PATTERN_WORDS)
        .map((w) => `{${w}}`)
        .join(' ')}`;
  if (/[{}]/.test(pattern.replace(unknown, ''))) return 'a brace is not closed';
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

/** The folder a pattern gives for a card. Characters that some volumes refuse become "_"; a missing date is "no date". */
export function cardFolder(pattern: string, words: CardWords): string {
  const value = (word: string): string => {
    const v = word === 'date' ? (words.date ?? 'no date') : String(words[word as keyof CardWords]);
    return v.replace(/\//g, '_');
  };
  return pattern
    .replace(/\{([^{}]*)\}/g, (_, w: string) => value(w))
    .split('/')
    .map((p) =>
      p
        .replace(/[\u0000-\u001f\u007f<>:"\\|?*]/g, '_')
        .trim()
        .slice(0, 120)
        .replace(/[. ]{1,120}$/, ''),
    )
    .filter((p) => p !== '')
    .join('/');
}
