import { createHash } from 'node:crypto';
import path from 'node:path';
import { isOdd, type DiskPath } from '../../core/names';
import { joinPath } from '../files/names';
import { mkdir, rename, symlink } from '../files/onDisk';

/**
 * The path by which media programs and readers open a file. They take text: a name that holds bytes that are no text is given to
 * them as a link of a plain name in the cache. Only for reading; what is kept and shown is the file's own path.
 */
export async function readablePath(home: string, file: DiskPath): Promise<string> {
  if (!isOdd(file)) return file;
  const folder = joinPath(home, 'cache', 'names');
  const link = joinPath(folder, `${createHash('sha1').update(file).digest('hex')}${path.extname(file).replace(/[^.A-Za-z0-9]/g, '')}`);
  await mkdir(folder);
  // Made anew each time and put in place at once: the one that is there may lead to where the file was before.
  const fresh = `${link}.${process.pid}.${Math.random().toString(36).slice(2)}`;
  await symlink(file, fresh);
  await rename(fresh, link);
  return link;
}
