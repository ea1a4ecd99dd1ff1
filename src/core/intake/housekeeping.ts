import type { DiskPath } from '../platform/names';
import { type FileTypes, typeOf } from './shape';

/**
 * What systems keep for themselves on a volume, by fixed names (common practice): journals and indexes at its top, and three kinds of files.
 * Not any hidden folder, and not where deleted files go: there may be footage in them.
 */
const OF_SYSTEM =
  /^(?:\.fseventsd|\.TemporaryItems|\.[a-z]+-V\d+|System Volume Information)\/|(?:^|\/)(?:\.DS_Store|Thumbs\.db|desktop\.ini)$/i;

/** The first bytes of a file of a file's further attributes (AppleDouble header, RFC 1740). */
const ATTRIBUTES = [0x00, 0x05, 0x16, 0x07];

/**
 * Whether a file of a card is one that computers write there for themselves, as soon as the card is in a reader: no camera needs it, and it
 * is no footage by its name. `null` where only its first four bytes tell (`isAttributes`).
 */
export function isOfSystem(path: DiskPath, types: FileTypes): boolean | null {
  if (path.slice(path.lastIndexOf('/') + 1).startsWith('._')) return null;
  return OF_SYSTEM.test(path) && typeOf(path, types) === null;
}

export const isAttributes = (head: Uint8Array): boolean => ATTRIBUTES.every((byte, i) => head[i] === byte);
