import { CODE_WORDS, codeOf, messageOf, ShelfError } from '../errors';

/** What they mean where something was to be written. */
const WRITING: Record<string, string> = {
  ...CODE_WORDS,
  EACCES: 'the folder may not be written to',
  EINVAL: 'the volume does not take this name',
  ENOENT: 'it or its folder is no longer there',
};

/** The system's code; empty where it is of a program that could not be run: its going says nothing of the file that it was to read. */
const codeOfFile = (e: unknown): string =>
  typeof e === 'object' && e !== null && ('command' in e || 'spawnargs' in e) ? '' : codeOf(e);

/** Why something could not be done to a file that is named beside it, for a person: the system's code stands behind, for who looks it up. */
export function inWords(e: unknown): string {
  if (e instanceof ShelfError) return e.message;
  const code = codeOfFile(e);
  const words = WRITING[code];
  return words === undefined ? messageOf(e) : `${words} (${code})`;
}

/** Why something cannot be read, for a person: in other words than those of a folder that is to be written to. */
export function unreadWhy(e: unknown): string {
  const code = codeOfFile(e);
  if (code === 'ENOENT') return 'it is no longer there';
  return code === 'EACCES' ? 'this user may not read it (EACCES)' : inWords(e);
}

/** The same of the file of a name. What was thrown as ours names it already. */
export function unreadInWords(name: string, e: unknown): string {
  if (codeOfFile(e) === 'ENOENT') return `${name} is no longer there`;
  return e instanceof ShelfError ? e.message : `${name} cannot be read: ${unreadWhy(e)}`;
}
