import { placeOf } from '../cards';
import type { files } from '../cards/tables';
import { isCode } from '../platform/errors';
import { lstat } from '../platform/files/onDisk';
import type { RootPlace } from '../platform/files/paths';

type FilePlace = Pick<typeof files.$inferSelect, 'path' | 'size' | 'modified' | 'onCard'>;

/** A file as it is at its place now, with its size in bytes and its time in milliseconds. */
export type Presence = { is: 'there'; size: number; modified: number } | { is: 'gone' | 'offline' };

/** Whether a file is at its place. `offline` where its root or its card is not there, or cannot be read: then nobody knows. */
export async function presenceOf(root: RootPlace, file: FilePlace): Promise<Presence> {
  const at = await placeOf(root, file).catch(() => null);
  if (at === null) return { is: 'offline' };
  try {
    const now = await lstat(at);
    return now.isFile() ? { is: 'there', size: now.size, modified: Math.round(now.mtimeMs) } : { is: 'gone' };
  } catch (e) {
    return { is: isCode(e, 'ENOENT', 'ENOTDIR') ? 'gone' : 'offline' };
  }
}
