import * as z from 'zod';

/**
 * The hashes Sort Shelf reads and writes. `xxh3` (64 bit) is only read. Names as in ASC MHL 2.0 (from memory). Values are
 * written as hexadecimal digits, most significant first, lower case; C4 as its 90 characters.
 */
export const HashKind = z.enum(['xxh128', 'xxh64', 'md5', 'sha1', 'c4', 'xxh3']);
export type HashKind = z.infer<typeof HashKind>;

/** Those a person can choose for a copy. */
export const ChosenHash = HashKind.exclude(['xxh3']);
export type ChosenHash = z.infer<typeof ChosenHash>;

export const HASH_WORDS: Record<HashKind, string> = {
  xxh128: 'XXH3-128',
  xxh64: 'XXH64',
  md5: 'MD5',
  sha1: 'SHA-1',
  c4: 'C4',
  xxh3: 'XXH3-64',
};

const LENGTHS: Record<HashKind, number> = { xxh128: 32, xxh64: 16, md5: 32, sha1: 40, c4: 90, xxh3: 16 };

/** A hash value as it is kept, or `null` where the text is no value of this kind. */
export function hashValue(kind: HashKind, text: string): string | null {
  const t = text.trim();
  if (kind === 'c4') return /^c4[1-9A-HJ-NP-Za-km-z]{88}$/.test(t) ? t : null;
  return t.length === LENGTHS[kind] && /^[0-9a-f]+$/i.test(t) ? t.toLowerCase() : null;
}

/** One file of a hash list. Paths are relative to the folder the list is of, "/" between the parts. */
export interface ListedFile {
  path: string;
  /** Bytes; `null` where the list does not say. */
  size: number | null;
  hashes: { kind: HashKind; value: string }[];
}
