import { isCode, messageOf, ShelfError } from '../errors';

const WORDS: Record<string, string> = {
  ENOSPC: 'the volume is full',
  EDQUOT: 'no more may be written on this volume',
  EROFS: 'the volume is read-only',
  EACCES: 'the folder may not be written to',
  EPERM: 'the system does not allow it',
  EIO: 'the volume gave an error',
  EBUSY: 'another program has it open',
  ETXTBSY: 'another program has it open',
  ENAMETOOLONG: 'the name is too long for this volume',
  EINVAL: 'the volume does not take this name',
  EILSEQ: 'the volume does not take this name',
  ENODEV: 'the volume is no longer there',
  ENXIO: 'the volume is no longer there',
  EMFILE: 'too many files are open',
};

/** Why something could not be done to a file, for a person: the system's code stands behind, for who looks it up. */
export function inWords(e: unknown): string {
  if (e instanceof ShelfError) return e.message;
  const code = typeof e === 'object' && e !== null && 'code' in e ? String(e.code) : '';
  const words = WORDS[code];
  return words === undefined ? messageOf(e) : `${words} (${code})`;
}

/** Why a file cannot be read, for a person: it begins with the file's `name` where the system refused it. */
export function unreadInWords(name: string, e: unknown): string {
  if (isCode(e, 'ENOENT')) return `${name} is no longer there`;
  if (isCode(e, 'EACCES')) return `${name} may not be read by this user (EACCES)`;
  const bySystem = e instanceof Error && 'syscall' in e;
  return bySystem ? `${name} cannot be read: ${inWords(e)}` : messageOf(e);
}
