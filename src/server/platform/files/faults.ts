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
  ENOENT: 'it or its folder is no longer there',
  ENOTCONN: 'the volume is not connected',
  ESTALE: 'the volume is not connected',
  EISDIR: 'a folder has the name of the file',
  ENOTDIR: 'a file has the name of the folder',
  EMFILE: 'too many files are open',
};

/** Why something could not be done to a file, for a person: the system's code stands behind, for who looks it up. */
export function inWords(e: unknown): string {
  if (e instanceof ShelfError) return e.message;
  const code = typeof e === 'object' && e !== null && 'code' in e ? String(e.code) : '';
  const words = WORDS[code];
  return words === undefined ? messageOf(e) : `${words} (${code})`;
}

/** Why something cannot be read, for a person: in other words than those of a folder that is to be written to. */
export function unreadWhy(e: unknown): string {
  if (isCode(e, 'ENOENT')) return 'it is no longer there';
  return isCode(e, 'EACCES') ? 'this user may not read it (EACCES)' : inWords(e);
}

/** The same of the file of a name. What was thrown as ours names it already. */
export function unreadInWords(name: string, e: unknown): string {
  if (isCode(e, 'ENOENT')) return `${name} is no longer there`;
  return e instanceof ShelfError ? e.message : `${name} cannot be read: ${unreadWhy(e)}`;
}
