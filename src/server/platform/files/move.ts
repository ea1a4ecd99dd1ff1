import type { BigIntStats } from 'node:fs';
import { lstat, stat } from 'node:fs/promises';
import path from 'node:path';
import type { DiskPath } from '../../../core/platform/names';
import { Clash, isCode, NotFound, Refused } from '../errors';
import {
  createFile,
  flushFolder,
  linkFile,
  makeFolder,
  removeFile,
  removeFolder,
  replaceFile,
} from './fileSystem';
import { sampleOf } from './hash';
import { diskPath } from './names';
import { hiddenName } from './partName';

/** What a file was when the plan was made; one that differs has been changed by someone else and is left alone. */
export interface Expected {
  size: number;
  modified: number;
  /** Fingerprint of its contents (`sampleOf`), where size and time do not tell it from others. */
  sample?: string | undefined;
}

/** Refuses a file that is gone, is not a regular file, or is not as it was. */
export async function checkUnchanged(file: DiskPath, expected: Expected): Promise<void> {
  const s = await lstat(diskPath(file)).catch((e: unknown) => {
    if (isCode(e, 'ENOENT', 'ENOTDIR')) return null;
    throw e;
  });
  if (!s)
    throw new NotFound(`${path.basename(file)} is no longer there.`, {
      file,
      next: 'Look where it went, then read the card again.',
    });
  if (!s.isFile()) throw new Refused(`${path.basename(file)} is no longer a regular file.`, { file });
  if (s.size !== expected.size || Math.round(s.mtimeMs) !== expected.modified) {
    throw new Clash(`${path.basename(file)} has changed since the plan was made.`, {
      file,
      next: 'Read the card again, then make a new plan.',
    });
  }
}

/** The name of the hidden note that an empty file at `to` is a place-holder of ours, not somebody's file. */
const claimName = (to: DiskPath): string => hiddenName(to, 'claim');

/**
 * Gives a file a second name, or on a volume without links its new name in place of the old; never replaces another file.
 * Where there are no links, an empty place-holder is made exclusively and then replaced; a note beside it tells after a
 * crash that it is ours. Throws Clash where something is there. Returns whether the old name is still there.
 */
export async function nameExclusively(from: DiskPath, to: DiskPath): Promise<'linked' | 'moved'> {
  const taken = () =>
    new Clash(`${path.basename(to)} is there already.`, {
      file: to,
      next: 'Move it away or choose another name.',
    });
  try {
    await linkFile(from, to);
    return 'linked';
  } catch (e) {
    if (isCode(e, 'EEXIST')) throw taken();
    if (isCode(e, 'EXDEV')) {
      throw new Refused(`${path.basename(from)} would go to another volume.`, {
        file: from,
        next: 'A file is renamed within its volume: choose a folder plan that stays on it.',
      });
    }
    if (!isCode(e, 'EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK')) throw e;
  }
  await dropPlaceHolder(to);
  const claim = claimName(to);
  await removeFile(claim).catch(() => undefined);
  const was = await lstat(diskPath(from), { bigint: true });
  createFile(claim).close();
  try {
    await flushFolder(path.dirname(to));
    createFile(to).close();
  } catch (e) {
    await dropClaim(to);
    throw isCode(e, 'EEXIST') ? taken() : e;
  }
  await replaceFile(from, to).catch(async (e: unknown) => {
    const [old, now] = await bothOf(from, to);
    // A share may lose its answer and be asked twice: the old name is gone by then, because the file has its new one.
    if (!old && now?.size === was.size && now.mtimeNs === was.mtimeNs) return;
    // A place-holder that cannot be removed keeps its note, by which it is known for ours.
    if (old) await dropPlaceHolder(to).catch(() => undefined);
    throw e;
  });
  await flushFolder(path.dirname(to));
  // A note that stayed would make an empty file of somebody's look like ours.
  await removeFile(claim);
  await flushFolder(path.dirname(to));
  return 'moved';
}

/** Removes an empty place-holder that a crash left at a name, told by the note beside it. Returns whether there was one. */
export async function dropPlaceHolder(to: DiskPath): Promise<boolean> {
  if (!(await isPlaceHolder(to))) return false;
  await removeFile(to);
  await removeFile(claimName(to)).catch(() => undefined);
  return true;
}

/** Removes the note of a place-holder that has become the file: a power cut may leave it. */
export const dropClaim = (to: DiskPath): Promise<void> => removeFile(claimName(to)).catch(() => undefined);

async function isPlaceHolder(to: DiskPath): Promise<boolean> {
  const [there, claim] = await Promise.all(
    [to, claimName(to)].map((p) => lstat(diskPath(p)).catch(() => null)),
  );
  return there !== null && there!.isFile() && there!.size === 0 && claim !== null;
}

/**
 * Renames a file without ever replacing another. The new name is flushed before the old one goes: after a power cut at any
 * point the file is under one of them, or under both, which `settleMove` tells.
 */
export async function renameExclusively(from: DiskPath, to: DiskPath): Promise<void> {
  await makeFolder(path.dirname(to));
  if ((await nameExclusively(from, to)) === 'linked') {
    await flushFolder(path.dirname(to));
    await removeOldName(from, to);
  }
  await flushFolder(path.dirname(from));
}

/**
 * Removes the old name of a file that has a new one. The move is done, too, where the old name is gone already, and where another file was
 * put under it meanwhile: that one is left. Where a volume numbers names and not files (some shares), the same size and time are the file's.
 */
async function removeOldName(from: DiskPath, to: DiskPath): Promise<void> {
  const [old, moved] = await bothOf(from, to);
  if (!moved)
    throw new Clash(`${path.basename(to)} was removed while it was named.`, {
      file: to,
      next: 'Look what does so, then try again.',
    });
  const isIt = old && (isOne(old, moved) || (old.size === moved.size && old.mtimeNs === moved.mtimeNs));
  if (isIt) await removeIfThere(from);
}

/** Removes a file. It may have been removed in that moment, by somebody, or by a share that lost its answer and was asked twice. */
export const removeIfThere = (file: DiskPath): Promise<void> =>
  removeFile(file).catch((e: unknown) => {
    if (!isCode(e, 'ENOENT')) throw e;
  });

const bothOf = (...names: [DiskPath, DiskPath]) =>
  Promise.all(names.map((p) => lstat(diskPath(p), { bigint: true }).catch(() => null)));
/**
 * Nanoseconds since 1970 in whole milliseconds, by the same sum as `mtimeMs` of Node.js: all of them in one number would lose up to 128 ns,
 * and one file in 18 000 would have another millisecond than it was kept with.
 */
const millisecondsOf = (ns: bigint): number =>
  Math.round(Number(ns / 1_000_000_000n) * 1e3 + Number(ns % 1_000_000_000n) / 1e6);
const isOne = (a: BigIntStats, b: BigIntStats): boolean => a.ino === b.ino && a.dev === b.dev;

/** Whether two names are of one file. */
export async function areOneFile(a: DiskPath, b: DiskPath): Promise<boolean> {
  const [one, other] = await bothOf(a, b);
  return !!one && !!other && isOne(one, other);
}

/** Moves a file that is still as it was when the plan was made. */
export async function moveFile(from: DiskPath, to: DiskPath, expected: Expected): Promise<void> {
  await checkUnchanged(from, expected);
  await renameExclusively(from, to);
}

/** A move of several; `fault` is set where it could not be done. */
export interface Move extends Expected {
  from: DiskPath;
  to: DiskPath;
  fault?: unknown;
}

/**
 * Moves files none of whose new names is an old name of another of them, as `moveFile` does each, but flushes every folder once: all
 * new names are on the disk before the first old one goes. One that cannot be moved stays, and says why; the others are moved.
 */
export async function moveFiles(moves: readonly Move[]): Promise<void> {
  const linked: Move[] = [];
  const folders = new Map<string, Promise<void>>();
  for (const m of moves) {
    try {
      await checkUnchanged(m.from, m);
      const folder = path.dirname(m.to);
      if (!folders.has(folder)) folders.set(folder, makeFolder(folder));
      await folders.get(folder);
      if ((await nameExclusively(m.from, m.to)) === 'linked') linked.push(m);
    } catch (e) {
      m.fault = e;
    }
  }
  const flush = async (list: readonly Move[], of: 'from' | 'to'): Promise<void> => {
    for (const folder of new Set(list.map((m) => path.dirname(m[of])))) await flushFolder(folder);
  };
  await flush(linked, 'to');
  for (const m of linked) {
    try {
      await removeOldName(m.from, m.to);
    } catch (e) {
      // The new name goes again where the old one is known to be on the file: no name is taken that may be its only one.
      if (await areOneFile(m.from, m.to)) await removeFile(m.to).catch(() => undefined);
      m.fault = e;
    }
  }
  await flush(
    moves.filter((m) => m.fault === undefined),
    'from',
  );
}

/**
 * How far a move that a crash interrupted had come, told from the disk alone: `notBegun`, `done`, or `half` (both names
 * on one file, or an empty place-holder at the new name). `lost` where the file is under neither name; `foreign` where another
 * file has taken the new name. A file is known by its size and time, and by its fingerprint where there is one: in a chain of names,
 * other files of the same plan may be at either place. Throws where one that is to be told by its contents cannot be read.
 */
export async function settleMove(
  from: DiskPath,
  to: DiskPath,
  expected: Expected,
): Promise<'notBegun' | 'half' | 'done' | 'lost' | 'foreign'> {
  const [a, b] = await bothOf(from, to);
  const isIt = async (file: DiskPath, s: BigIntStats | null | undefined): Promise<boolean> =>
    s?.isFile() === true &&
    Number(s.size) === expected.size &&
    millisecondsOf(s.mtimeNs) === expected.modified &&
    (await isOfSample(file, expected));
  if (await isIt(from, a)) {
    if (b && isOne(a!, b)) return 'half';
    return !b ? 'notBegun' : (await isPlaceHolder(to)) ? 'half' : 'foreign';
  }
  if ((await isIt(to, b)) && !(await isPlaceHolder(to))) return 'done';
  return b ? 'foreign' : 'lost';
}

/** Whether a file holds what was fingerprinted; one without a fingerprint is known by what else it is. */
export const isOfSample = async (file: DiskPath, { size, sample }: Expected): Promise<boolean> =>
  sample === undefined || (await sampleOf(file, size)) === sample;

/** Takes back the half of a move: the new name goes, the old one stays. Only where `settleMove` said `half`. */
export async function dropHalf(to: DiskPath): Promise<void> {
  if (await dropPlaceHolder(to)) return;
  await removeFile(to);
  await flushFolder(path.dirname(to));
}

/** Removes folders that became empty, from `folder` up, never `stop` itself or anything above it, nor one of `kept`. */
export async function pruneEmpty(
  folder: DiskPath,
  stop: DiskPath,
  kept: ReadonlySet<DiskPath>,
): Promise<void> {
  for (let at = folder; at.startsWith(stop + path.sep) && !kept.has(at); at = path.dirname(at)) {
    try {
      await removeFolder(at);
    } catch (e) {
      if (isCode(e, 'ENOENT')) continue;
      return;
    }
  }
}

/** The time a file was last changed, in whole milliseconds, as it is kept in the database. */
export const modifiedOf = async (file: DiskPath): Promise<Expected> => {
  const s = await stat(diskPath(file));
  return { size: s.size, modified: Math.round(s.mtimeMs) };
};
