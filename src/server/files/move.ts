import { constants } from 'node:fs';
import { link, lstat, mkdir, open, rename, rmdir, stat, unlink } from 'node:fs/promises';
import path from 'node:path';
import { Clash, isCode, NotFound, Refused } from '../errors';
import { diskPath } from './names';

/** What a file was when the plan was made; one that differs has been changed by someone else and is left alone. */
export interface Expected { size: number; modified: number }

/** Refuses a file that is gone, is no plain file, or is not as it was. */
export async function checkUnchanged(file: string, expected: Expected): Promise<void> {
  const s = await lstat(file).catch(() => null);
  if (!s) throw new NotFound(`${path.basename(file)} is not there any more.`, { file, next: 'Look where it went, then read the card again.' });
  if (!s.isFile()) throw new Refused(`${path.basename(file)} is not a plain file any more.`, { file });
  if (s.size !== expected.size || Math.round(s.mtimeMs) !== expected.modified) {
    throw new Clash(`${path.basename(file)} has changed since the plan was made.`, { file, next: 'Read the card again, then make a new plan.' });
  }
}

/**
 * Renames a file without ever replacing another: the new name is made as a second link, which fails where something
 * stands there, and the old one is removed. Volumes without links get an empty place-holder made exclusively, which the
 * rename then replaces. A crash between the two leaves both names on one file; `settleMove` tells.
 */
export async function renameExclusively(from: string, to: string): Promise<void> {
  await mkdir(diskPath(path.dirname(to)), { recursive: true });
  const [source, target] = [diskPath(from), diskPath(to)];
  const taken = () => new Clash(`${path.basename(to)} is there already.`, { file: to, next: 'Move it away or choose another name.' });
  try {
    await link(source, target);
  } catch (e) {
    if (isCode(e, 'EEXIST')) throw taken();
    if (isCode(e, 'EXDEV')) {
      throw new Refused(`${path.basename(from)} would go to another volume.`, { file: from, next: 'A file is renamed within its volume: choose a folder plan that stays on it.' });
    }
    if (!isCode(e, 'EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK')) throw e;
    await open(target, constants.O_CREAT | constants.O_EXCL | constants.O_WRONLY).then((h) => h.close(), (x: unknown) => {
      throw isCode(x, 'EEXIST') ? taken() : x;
    });
    await rename(source, target);
    return;
  }
  await unlink(source);
}

/** Moves a file that is still as it was when the plan was made. */
export async function moveFile(from: string, to: string, expected: Expected): Promise<void> {
  await checkUnchanged(from, expected);
  await renameExclusively(from, to);
}

/**
 * How far a move that a crash interrupted had come, told from the disk alone: `notBegun`, `done`, or `half` (both names
 * on one file, or an empty place-holder at the new name). `lost` where neither name is there; `foreign` where another
 * file has taken the new name.
 */
export async function settleMove(from: string, to: string, expected: Expected): Promise<'notBegun' | 'half' | 'done' | 'lost' | 'foreign'> {
  const [a, b] = await Promise.all([from, to].map((p) => lstat(p, { bigint: true }).catch(() => null)));
  if (a && !b) return 'notBegun';
  if (!a && !b) return 'lost';
  if (!a && b) return Number(b.size) === expected.size ? 'done' : 'foreign';
  if (a!.ino === b!.ino && a!.dev === b!.dev) return 'half';
  return b!.size === 0n && expected.size > 0 ? 'half' : 'foreign';
}

/** Takes back the half of a move: the new name goes, the old one stays. Only where `settleMove` said `half`. */
export async function dropHalf(to: string): Promise<void> {
  await unlink(to);
}

/** Removes folders that became empty, from `folder` up, never `stop` itself or anything above it. */
export async function pruneEmpty(folder: string, stop: string): Promise<void> {
  for (let at = folder; at.startsWith(stop + path.sep); at = path.dirname(at)) {
    try {
      await rmdir(at);
    } catch (e) {
      if (isCode(e, 'ENOENT')) continue;
      return;
    }
  }
}

/** The time a file was last changed, in whole milliseconds, as it is kept in the database. */
export const modifiedOf = async (file: string): Promise<Expected> => {
  const s = await stat(file);
  return { size: s.size, modified: Math.round(s.mtimeMs) };
};
