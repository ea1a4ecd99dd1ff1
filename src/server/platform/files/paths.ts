import { lstat, realpath } from 'node:fs/promises';
import path from 'node:path';
import type { DiskPath } from '../../../core/platform/names';
import { isCode, NotFound, Refused } from '../errors';
import { diskPath, joinPath, nameFromBytes } from './names';

export interface RootPlace {
  id: string;
  path: DiskPath;
  name: string;
  /** Where it was added, to be said of one that is not there. */
  added?: string;
}

/** The real path of one, as `names` writes it: byte by byte where it is no text. */
const realOf = async (file: DiskPath): Promise<string> =>
  nameFromBytes(await realpath(diskPath(file), { encoding: 'buffer' }));

/** Whether an absolute path is a folder or lies in it. A name that begins with two dots is a name. */
export const isWithin = (inner: string, outer: string): boolean =>
  inner === outer || inner.startsWith(outer.endsWith(path.sep) ? outer : outer + path.sep);

/**
 * The folder of a root, as it was when it was added. Throws NotFound where it is not there, and Refused where it, or a folder around it,
 * has become a link since: what the link leads to was never chosen.
 */
export async function baseOf(root: RootPlace): Promise<DiskPath> {
  const real = await realOf(root.path).catch(() => {
    const at = root.added ?? root.path;
    throw new NotFound(`The folder of “${root.name}” is not there: ${at}`, {
      file: at,
      next: 'Connect the volume, or say on Places where it is now.',
    });
  });
  if (real !== root.path)
    throw new Refused(`The folder of “${root.name}” has become a link: ${root.path}`, {
      file: root.path,
      next: 'Put the folder back, or add the one the link leads to as a place.',
    });
  return real;
}

/**
 * The absolute path of `relative` ("/" between the parts) below a root. Refused where it leaves the root: by "..", by
 * being absolute, or by a link on the way. What does not exist yet is allowed; its nearest existing folder is checked.
 */
export async function resolveIn(root: RootPlace, relative: DiskPath): Promise<string> {
  if (relative.includes('\0')) throw new Refused('A path cannot contain a zero byte.');
  const parts = relative.split('/').filter((p) => p !== '' && p !== '.');
  if (relative.startsWith('/') || parts.includes('..') || path.isAbsolute(relative)) {
    throw new Refused(`“${relative}” leads out of “${root.name}”.`, {
      file: relative,
      next: 'Choose a folder inside the place.',
    });
  }
  const base = await baseOf(root);
  const wanted = joinPath(base, ...parts);
  let existing = wanted;
  for (;;) {
    try {
      const real = await realOf(existing);
      if (real !== existing) {
        throw new Refused(`“${relative}” goes through a link.`, {
          file: relative,
          next: 'Links are not followed: choose the folder it points to, inside a place.',
        });
      }
      return wanted;
    } catch (e) {
      if (isCode(e, 'ELOOP')) throw new Refused(`“${relative}” goes through a link.`, { file: relative });
      if (!isCode(e, 'ENOENT', 'ENOTDIR')) throw e;
      // A link that points nowhere does not exist for realpath, but would be followed once its target does.
      if (
        await lstat(diskPath(existing)).then(
          (s) => s.isSymbolicLink(),
          () => false,
        )
      )
        throw new Refused(`“${relative}” goes through a link.`, { file: relative });
      existing = path.dirname(existing);
    }
  }
}
