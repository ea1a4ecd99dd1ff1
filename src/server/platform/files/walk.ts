import { Stats } from 'node:fs';
import { lstat, readdir } from 'node:fs/promises';
import type { DiskPath } from '../../../core/platform/names';
import type { FoundEntry } from '../../../core/intake';
import { isCode, messageOf, Refused } from '../errors';
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
    let names;
    try {
      names = (
        await readdir(diskPath(joinPath(folder, at)), { withFileTypes: true, encoding: 'buffer' })
      ).map((n) => ({ name: nameFromBytes(n.name as unknown as Uint8Array), isFolder: n.isDirectory() }));
    } catch (e) {
      if (at === '' || !isCode(e, 'EACCES', 'EPERM', 'ENOENT', 'EIO', 'ENAMETOOLONG', 'ELOOP', 'ENOTDIR'))
        throw e;
      entries.push({
        path: at,
        kind: 'other',
        size: 0,
        modified: 0,
        fault: isCode(e, 'ENAMETOOLONG')
          ? 'its path is longer than the system can hold'
          : 'this folder cannot be read',
      });
      continue;
    }
    if (names.length === 0 && at !== '') empty.push(at);
    names.sort((a, b) => (a.name < b.name ? -1 : 1));
    const below = (name: string) => (at === '' ? name : `${at}/${name}`);
    for (const n of names) if (n.isFolder) open.push(below(n.name));
    const files = names.filter((n) => !n.isFolder);
    for (let i = 0; i < files.length; i += CONCURRENCY) {
      const some = files.slice(i, i + CONCURRENCY).map((n) => below(n.name));
      const stats = await Promise.all(
        some.map((p) => lstat(diskPath(joinPath(folder, p))).catch((e: unknown) => e)),
      );
      for (const [j, stat] of stats.entries()) {
        // What has gone meanwhile is not there; what cannot be looked at is, and nobody may think otherwise.
        if (isCode(stat, 'ENOENT')) continue;
        if (entries.length >= limit) return { entries, empty, whole: false };
        if (!(stat instanceof Stats)) {
          entries.push({
            path: some[j]!,
            kind: 'other',
            size: 0,
            modified: 0,
            fault: `it cannot be looked at: ${messageOf(stat)}`,
          });
          continue;
        }
        const kind = stat.isSymbolicLink() ? 'link' : stat.isFile() ? 'file' : 'other';
        entries.push({
          path: some[j]!,
          kind,
          size: kind === 'file' ? stat.size : 0,
          modified: Math.round(stat.mtimeMs),
        });
      }
    }
  }
  return { entries, empty, whole: true };
}

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
