import { isCode } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import type { RootPlace } from '../platform/files/paths';
import { placeOf } from './onCard';
import type { files } from './tables';

type FilePlace = Pick<typeof files.$inferSelect, 'path' | 'size' | 'modified' | 'onCard'>;

/** A file as it is at its place now, with its size in bytes and its time in milliseconds. */
export type Presence = { is: 'there'; size: number; modified: number } | { is: 'gone' | 'offline' };

/** Whether a file is at its place. `offline` where its root or its card is not there, or cannot be read: then nobody knows. */
export async function presenceOf(root: RootPlace, file: FilePlace): Promise<Presence> {
  const at = await placeOf(root, file).catch(() => null);
  return at === null ? { is: 'offline' } : standing(at);
}

/** The same of very many files: `base` is the folder of the root (`baseOf`), `null` where that is not there. */
export async function presenceIn(
  base: string | null,
  root: RootPlace | undefined,
  file: FilePlace,
): Promise<Presence> {
  if (base === null || !root) return { is: 'offline' };
  return file.onCard === null ? standing(joinPath(base, file.path)) : presenceOf(root, file);
}

async function standing(at: string): Promise<Presence> {
  try {
    const now = await lstat(at);
    return now.isFile() ? { is: 'there', size: now.size, modified: Math.round(now.mtimeMs) } : { is: 'gone' };
  } catch (e) {
    return { is: isCode(e, 'ENOENT', 'ENOTDIR') ? 'gone' : 'offline' };
  }
}
