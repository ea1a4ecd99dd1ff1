import { Stats } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import type { DiskPath } from '../../../core/platform/names';
import type { FoundEntry } from '../../../core/intake';
import { isCode, Refused } from '../errors';
import { unreadWhy } from './faults';
import { diskPath, joinPath, nameFromBytes } from './names';

/** Most entries that are listed of a folder. Fewer in tests. */
export const walkLimits = { entries: 250_000 };

const CONCURRENCY = 32;

export interface Walked {
  entries: FoundEntry[];
  /** Folders with nothing in them. */
  empty: string[];
  /** False where the folder has more entries than the limit. */
  whole: boolean;
}

/** What is in one folder: its files, links and whatever else, and the names of the folders in it. Paths are relative to the top. */
export interface ListedFolder {
  entries: FoundEntry[];
  folders: string[];
}

/** How often a folder is listed whose files went while they were looked at. */
const LISTINGS = 3;

/**
 * One folder of a tree (`at` is below `top`, "" for itself), links listed and not followed. One that cannot be read, or has gone, is an
 * entry with its fault; the top itself throws what the system says. Where files have gone meanwhile it is listed again: of a card that was
 * pulled all have, and the folder too.
 */
export async function listFolder(top: DiskPath, at: string, left = LISTINGS): Promise<ListedFolder> {
  let names;
  try {
    names = (await readdir(diskPath(joinPath(top, at)), { withFileTypes: true, encoding: 'buffer' })).map(
      (n) => ({ name: nameFromBytes(n.name as unknown as Uint8Array), isFolder: n.isDirectory() }),
    );
  } catch (e) {
    if (at === '' || !isCode(e, 'EACCES', 'EPERM', 'ENOENT', 'EIO', 'ENAMETOOLONG', 'ELOOP', 'ENOTDIR'))
      throw e;
    const fault = isCode(e, 'ENAMETOOLONG')
      ? 'its path is longer than the system can hold'
      : 'this folder cannot be read';
    return { entries: [{ path: at, kind: 'other', size: 0, modified: 0, fault }], folders: [] };
  }
  names.sort((a, b) => (a.name < b.name ? -1 : 1));
  const below = (name: string) => (at === '' ? name : `${at}/${name}`);
  const files = names.filter((n) => !n.isFolder);
  const entries: FoundEntry[] = [];
  for (let i = 0; i < files.length; i += CONCURRENCY) {
    const some = files.slice(i, i + CONCURRENCY).map((n) => below(n.name));
    const stats = await Promise.all(
      some.map((p) => lstat(diskPath(joinPath(top, p))).catch((e: unknown) => e)),
    );
    if (left > 1 && stats.some((s) => isCode(s, 'ENOENT'))) return listFolder(top, at, left - 1);
    for (const [j, stat] of stats.entries()) {
      // What has gone meanwhile is not there; what cannot be looked at is, and nobody may think otherwise.
      if (!isCode(stat, 'ENOENT')) entries.push(entryOf(some[j]!, stat));
    }
  }
  return { entries, folders: names.filter((n) => n.isFolder).map((n) => below(n.name)) };
}

function entryOf(path: string, stat: unknown): FoundEntry {
  if (!(stat instanceof Stats)) {
    const fault = `it cannot be looked at: ${unreadWhy(stat)}`;
    return { path, kind: 'other', size: 0, modified: 0, fault };
  }
  const kind = stat.isSymbolicLink() ? 'link' : stat.isFile() ? 'file' : 'other';
  return { path, kind, size: kind === 'file' ? stat.size : 0, modified: Math.round(stat.mtimeMs) };
}

/**
 * Everything below a folder, links listed and not followed. Paths are relative to it; names that are no text are kept byte
 * by byte (`core/names`). A folder that cannot be read is listed as an entry with its fault; the rest goes on.
 */
export async function walk(folder: DiskPath, limit = walkLimits.entries): Promise<Walked> {
  const entries: FoundEntry[] = [];
  const empty: string[] = [];
  const open = [''];
  while (open.length > 0) {
    const at = open.pop()!;
    const listed = await listFolder(folder, at);
    if (isEmpty(listed) && at !== '') empty.push(at);
    open.push(...listed.folders);
    for (const e of listed.entries) {
      if (entries.length >= limit) return { entries, empty, whole: false };
      entries.push(e);
    }
  }
  return { entries, empty, whole: true };
}

export const isEmpty = ({ entries, folders }: ListedFolder): boolean => entries.length + folders.length === 0;

/** Everything below a folder, or none of it: what is not listed would be neither copied nor missed. */
export async function walkWhole(folder: DiskPath): Promise<Walked> {
  const walked = await walk(folder);
  if (!walked.whole)
    throw new Refused(
      `This folder holds more than ${walkLimits.entries.toLocaleString('en')} files and folders.`,
      { file: folder, next: 'Choose the folders in it one by one.' },
    );
  return walked;
}
