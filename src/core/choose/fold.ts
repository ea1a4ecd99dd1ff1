/** Words as they are compared: without regard to case, accents and Unicode form. */
export const fold = (words: string): string =>
  words.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase().normalize('NFKC');
