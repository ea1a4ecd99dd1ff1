import { homedir } from 'node:os';
import path from 'node:path';
import type { NewFolder, OutsideFolder } from '../../core/places';
import { isSystemFolder } from '../../core/platform/places';
import { shownPath } from '../../core/platform/names';
import { Clash, isCode, NotFound, Refused, Unreadable } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { access, constants, mkdirNew, readdir, realpath } from '../platform/files/onDisk';
import { isWithin } from '../platform/files/paths';
import { listRoots } from './list';
import type { Ports } from './ports';
import { whyNot } from './roots';

// Folders outside the roots: their names are listed, so that one can be chosen. Nothing in them is opened.

/** Most folders that are listed of one. */
const MOST = 2000;

/** A folder of the person's own by its real path; those in which the system keeps its own are not walked. */
export async function walkable(said: string): Promise<string> {
  if (!path.isAbsolute(said)) throw new Refused('Give the full path of the folder.', { file: said });
  const real = await realpath(said).catch((e: unknown) => {
    if (isCode(e, 'EACCES', 'EPERM'))
      throw new Unreadable(`${said} is not readable by this user.`, {
        file: said,
        next: 'Give the user that runs Sort Shelf the right to read it.',
      });
    throw new NotFound(`There is no folder ${said}.`, {
      file: said,
      next: 'Check the spelling, or connect the volume.',
    });
  });
  if (isSystemFolder(real) && !isAbove(real))
    throw new Refused(`${said} is a folder of the system.`, {
      file: said,
      next: 'Choose a folder that holds footage, or one for it.',
    });
  return real;
}

/** Whether people's folders or volumes are in a folder of the system that is none for footage itself. */
const isAbove = (real: string): boolean => !isSystemFolder(joinPath(real, 'a folder'));

/** A folder anywhere on this computer: the folders in it, and whether it can be a root. The person's own where none is named. */
export async function outsideFolder(
  runtime: Pick<Ports, 'db' | 'home'>,
  said: string = homedir(),
): Promise<OutsideFolder> {
  const real = await walkable(said);
  let names;
  try {
    names = await readdir(real);
  } catch (e) {
    if (isCode(e, 'ENOTDIR')) throw new Refused(`${said} is a file, not a folder.`, { file: said });
    if (isCode(e, 'EACCES', 'EPERM'))
      throw new Unreadable(`${said} is not readable by this user.`, {
        file: said,
        next: 'Give the user that runs Sort Shelf the right to read it.',
      });
    throw e;
  }
  const roots = await listRoots(runtime);
  const folders = names
    .filter((n) => n.kind === 'folder' && !n.name.startsWith('.'))
    .map((n) => ({ name: n.name, path: joinPath(real, n.name) }))
    .filter((f) => !isSystemFolder(f.path) || isAbove(f.path))
    .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
    .slice(0, MOST)
    .map((f) => ({
      name: shownPath(f.name),
      path: f.path,
      root: roots.find((r) => r.path === f.path)?.name ?? null,
    }));
  const up = path.dirname(real);
  const against = await whyNot(runtime, real);
  return {
    path: real,
    up: up === real ? null : up,
    folders,
    files: names.filter((n) => n.kind === 'file').length,
    refused: against && `It ${against.why}. ${against.next}`,
    writable: await access(real, constants.W_OK).then(
      () => true,
      () => false,
    ),
  };
}

/** Makes a folder in another one. Returns its path. */
export async function newFolder({ home }: Pick<Ports, 'home'>, wanted: NewFolder): Promise<{ path: string }> {
  const real = await walkable(wanted.path);
  const { name } = wanted;
  if (name.includes('/') || name === '.' || name === '..' || name.startsWith('.'))
    throw new Refused(`“${name}” is no name for a folder.`, {
      file: real,
      next: 'Leave out slashes, and dots at the beginning.',
    });
  const at = joinPath(real, name);
  if (real === path.parse(real).root || isSystemFolder(at) || isWithin(real, home))
    throw new Refused(`${at} would be in a folder of the system, or of Sort Shelf itself.`, {
      file: at,
      next: 'Choose a folder of your own.',
    });
  try {
    await mkdirNew(at);
  } catch (e) {
    if (isCode(e, 'EEXIST'))
      throw new Clash(`There is “${name}” already.`, { file: at, next: 'Choose it, or another name.' });
    if (isCode(e, 'EACCES', 'EPERM', 'EROFS'))
      throw new Refused(`No folder can be made in ${real}: it takes no files of this user.`, {
        file: real,
        next: 'Choose another folder, or give the user that runs Sort Shelf the right to write there.',
      });
    throw e;
  }
  return { path: at };
}
