import * as z from 'zod';

// File systems keep names as bytes, which need not be UTF-8. A byte that is part of no character is carried as one of the
// private characters U+F780 to U+F7FF, so that every name can be kept as text and given back to the disk byte by byte.

declare const shown: unique symbol;
/** A path or name as it is shown to a person. It need not be the one on the disk: nothing may be opened, renamed or looked for by it. */
export type ShownPath = string & { readonly [shown]: true };
/** A path or name as the disk has it, from which its very bytes are told; never one that was made to be shown. */
export type DiskPath = string & { readonly [shown]?: never };
/** The field of a view that holds a path to be read by a person; paths that come back to the server are no such fields. */
export const ShownPath = z.custom<ShownPath>((v) => typeof v === 'string');

/** Folders and a name as one path below something, "/" between; empty parts are none. */
export const join = (...parts: string[]): string => parts.filter((p) => p !== '').join('/');

/** The folder a path below something is in; "" for what is at the top. */
export const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/**
 * A path below a root as a request gives it, "/" between the parts: the same folder is always the same text, whatever "./" or "//" it was
 * written with. One that leads out of the root unchanged, and is refused where it is used.
 */
export const PathBelow = z
  .string()
  .max(4096)
  .transform((p) =>
    p.startsWith('/')
      ? p
      : p
          .split('/')
          .filter((part) => part !== '' && part !== '.')
          .join('/'),
  );

const FIRST = 0xf700;

/** The text that represents a byte (0x80 to 0xff). */
export const escapedByte = (byte: number): string => String.fromCharCode(FIRST + byte);

const ESCAPED = /[\uf780-\uf7ff]/gu;

/** Whether a path holds bytes that are no text. */
export const isOdd = (path: DiskPath): boolean => path.search(ESCAPED) >= 0;

/** A path as a person can read it: such bytes as `\xE9`. */
export const shownPath = (path: DiskPath): ShownPath =>
  path.replace(ESCAPED, (c) => `\\x${(c.charCodeAt(0) - FIRST).toString(16).toUpperCase()}`) as ShownPath;

/** A name that every volume and program can hold: such bytes as `_`. */
export const plainName = (name: DiskPath): string => name.replace(ESCAPED, '_');

/** The byte an escaped character represents, or `null` where it represents itself. */
export function byteOf(character: string): number | null {
  const code = character.charCodeAt(0);
  return code >= FIRST + 0x80 && code <= FIRST + 0xff ? code - FIRST : null;
}
