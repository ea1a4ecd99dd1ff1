import { shownPath } from '../../core/platform/names';
import { typeOf } from '../../core/intake/shape';
import type { FolderView } from '../../core/intake/shapes';
import { isCode, NotFound, Unreadable } from '../platform/errors';
import { resolveIn } from '../platform/files/paths';
import { walk } from '../platform/files/walk';
import type { InJob } from './ports';
import { requireJob } from '../jobs';
import { rootById } from '../places';
import { joinPath } from '../platform/files/names';
import { readdir } from '../platform/files/onDisk';

/** Most entries counted below one subfolder before "and more" is said. */
const COUNT_LIMIT = 5000;

/** One folder below a root: its subfolders with what is inside each, links left out. */
export async function browse(runtime: InJob, rootId: string, folder: string): Promise<FolderView> {
  const root = await rootById(runtime, rootId);
  const { types } = (await requireJob(runtime)).intake;
  const isFootage = (e: { path: string }) => typeOf(e.path, types) !== null;
  const at = await resolveIn(root, folder);
  let names;
  try {
    names = await readdir(at);
  } catch (e) {
    if (isCode(e, 'ENOENT'))
      throw new NotFound(`The folder “${folder || root.name}” is no longer there.`, {
        file: at,
        next: 'Go up a level, or connect the volume.',
      });
    if (isCode(e, 'ENOTDIR')) throw new NotFound(`“${folder}” is a file, not a folder.`, { file: at });
    if (isCode(e, 'EACCES', 'EPERM'))
      throw new Unreadable(`“${folder}” is not readable by this user.`, { file: at });
    throw e;
  }
  const folders: FolderView['folders'] = [];
  for (const name of names
    .filter((n) => n.kind === 'folder' && !n.name.startsWith('.'))
    .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))) {
    const { entries, whole } = await walk(joinPath(at, name.name), COUNT_LIMIT).catch(() => ({
      entries: [],
      whole: false,
    }));
    folders.push({
      name: shownPath(name.name),
      path: folder === '' ? name.name : `${folder}/${name.name}`,
      whole,
      files: entries.length,
      footage: entries.filter(isFootage).length,
      bytes: entries.reduce((n, e) => n + e.size, 0),
    });
  }
  const files = names
    .filter((n) => n.kind === 'file' && !n.name.startsWith('.'))
    .map((n) => n.name)
    .sort();
  const inside = await walk(at, COUNT_LIMIT);
  return {
    root: rootId,
    path: folder,
    folders,
    files: inside.entries.length,
    footage: inside.entries.filter(isFootage).length,
    bytes: inside.entries.reduce((n, e) => n + e.size, 0),
    samples: files.slice(0, 12).map(shownPath),
  };
}
