import { lstat, readdir } from 'node:fs/promises';
import path from 'node:path';
import type { FoundEntry } from '../../core/cards/recognise';
import { isCode } from '../errors';

/** Most entries a walk lists; a folder with more is said to be cut. */
export const WALK_LIMIT = 250_000;

/**
 * Everything below a folder, links listed and not followed. Paths are relative to it. A folder that cannot be read is
 * listed as an entry with its fault; the rest goes on.
 */
export async function walk(folder: string, limit = WALK_LIMIT): Promise<{ entries: FoundEntry[]; whole: boolean }> {
  const entries: FoundEntry[] = [];
  const open = [''];
  while (open.length > 0) {
    const at = open.pop()!;
    let names;
    try {
      names = await readdir(path.join(folder, at), { withFileTypes: true });
    } catch (e) {
      if (at === '' || !isCode(e, 'EACCES', 'EPERM', 'ENOENT', 'EIO')) throw e;
      entries.push({ path: at, kind: 'other', size: 0, modified: 0, fault: 'this folder cannot be read' });
      continue;
    }
    names.sort((a, b) => (a.name < b.name ? -1 : 1));
    for (const name of names) {
      const relative = at === '' ? name.name : `${at}/${name.name}`;
      if (name.isDirectory()) {
        open.push(relative);
        continue;
      }
      if (entries.length >= limit) return { entries, whole: false };
      const stat = await lstat(path.join(folder, relative)).catch(() => null);
      if (!stat) continue;
      const kind = stat.isSymbolicLink() ? 'link' : stat.isFile() ? 'file' : 'other';
      entries.push({ path: relative, kind, size: kind === 'file' ? stat.size : 0, modified: Math.round(stat.mtimeMs) });
    }
  }
  return { entries, whole: true };
}
