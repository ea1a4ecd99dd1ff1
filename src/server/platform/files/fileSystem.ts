import * as sync from 'node:fs';
import * as fs from 'node:fs/promises';
import path from 'node:path';
import type { DiskPath } from '../../../core/platform/names';
import { Clash, isCode, Refused, ShelfError } from '../errors';
import { diskPath, nameFromBytes } from './names';
import { checkPlace, isSameName } from './plainFile';

// Every change to footage, copies and their lists goes through here: so that the order of flushes can be tested against a disk
// that forgets whatever was not flushed, and volumes that have no links can be played.

/** One change, or one flush, in the order it was made. Paths are absolute. */
export type DiskOp =
  | { op: 'create'; file: DiskPath }
  | { op: 'write'; file: DiskPath; bytes: Buffer }
  | { op: 'flush'; file: DiskPath }
  | { op: 'times'; file: DiskPath; modified: number }
  | { op: 'link' | 'rename'; from: DiskPath; to: DiskPath }
  | { op: 'remove'; file: DiskPath }
  | { op: 'folder'; file: DiskPath }
  | { op: 'removeFolder'; file: DiskPath }
  | { op: 'flushFolder'; file: DiskPath };

/**
 * What tests set: who is asked before each change, and may refuse it; who is told of it, and may keep the one who made it waiting, for ever as
 * a crash does; and whether the volume refuses links (as FAT32 and exFAT do, with EPERM).
 */
export const layer: {
  ask: ((op: DiskOp) => void) | null;
  tell: ((op: DiskOp) => unknown) | null;
  refuseLinks: boolean;
} = {
  ask: null,
  tell: null,
  refuseLinks: process.env.SORT_SHELF_REFUSE_LINKS === '1',
};

const tell = (op: DiskOp): unknown => layer.tell?.(op);
/** Makes a change, and tells of it. */
async function change(op: DiskOp, work: () => Promise<unknown>): Promise<void> {
  layer.ask?.(op);
  await work();
  await tell(op);
}
const noLinks = () => Object.assign(new Error('EPERM: operation not permitted, link'), { code: 'EPERM' });

/** A second name for a file; throws EEXIST where something is there. */
export async function linkFile(from: DiskPath, to: DiskPath): Promise<void> {
  if (layer.refuseLinks) throw noLinks();
  await change({ op: 'link', from, to }, () => fs.link(diskPath(from), diskPath(to)));
}

/** Gives a file another name, replacing what is there: only where that is known to be one's own. */
export const replaceFile = (from: DiskPath, to: DiskPath): Promise<void> =>
  change({ op: 'rename', from, to }, () => fs.rename(diskPath(from), diskPath(to)));

export const removeFile = (file: DiskPath): Promise<void> =>
  change({ op: 'remove', file }, () => fs.unlink(diskPath(file)));

export const removeFolder = (folder: DiskPath): Promise<void> =>
  change({ op: 'removeFolder', file: folder }, () => fs.rmdir(diskPath(folder)));

export const setModified = (file: DiskPath, modified: number): Promise<void> =>
  change({ op: 'times', file, modified }, () => fs.utimes(diskPath(file), modified / 1000, modified / 1000));

/** A file that is being written. Calls wait inside: worker threads have nothing else to do, and lists are short. */
export interface NewFile {
  write(bytes: Buffer): void;
  flush(): void;
  close(): void;
}

/** Makes a file that must not be there yet. Throws Refused where a folder on its path is a link: what is written there would stand elsewhere. */
export function createFile(file: DiskPath): NewFile {
  layer.ask?.({ op: 'create', file });
  const fd = sync.openSync(
    diskPath(file),
    sync.constants.O_WRONLY | sync.constants.O_CREAT | sync.constants.O_EXCL,
    0o644,
  );
  try {
    checkPlace(fd, file);
  } catch (e) {
    sync.closeSync(fd);
    sync.unlinkSync(diskPath(file));
    throw e;
  }
  tell({ op: 'create', file });
  let open = true;
  return {
    write(bytes) {
      for (let at = 0; at < bytes.length;) at += sync.writeSync(fd, bytes, at, bytes.length - at);
      if (layer.tell) tell({ op: 'write', file, bytes: Buffer.from(bytes) });
    },
    flush() {
      sync.fdatasyncSync(fd);
      tell({ op: 'flush', file });
    },
    close() {
      // A number closed twice may be another file's by then.
      if (open) sync.closeSync(fd);
      open = false;
    },
  };
}

/**
 * Flushes a folder's list of names, so that a name that was given or taken is so after a power cut. Volumes that cannot do that
 * are left alone: some write names at once.
 */
export async function flushFolder(folder: DiskPath): Promise<void> {
  try {
    await change({ op: 'flushFolder', file: folder }, async () => {
      const handle = await fs.open(diskPath(folder), 'r');
      try {
        await handle.sync();
      } finally {
        await handle.close();
      }
    });
  } catch (e) {
    if (!isCode(e, 'EINVAL', 'ENOTSUP', 'EOPNOTSUPP', 'EPERM', 'EACCES', 'EISDIR', 'EBADF', 'ENOENT'))
      throw e;
  }
}

/** Throws Refused where the path of a folder leads through a link. */
async function checkFolder(folder: DiskPath): Promise<void> {
  const real = nameFromBytes(await fs.realpath(diskPath(folder), { encoding: 'buffer' }));
  if (!isSameName(real, folder))
    throw new Refused(`The folder ${folder} leads through a link.`, {
      file: folder,
      next: 'Links are not followed: put a folder in its place.',
    });
}

/**
 * Makes a folder and those around it that are not there, each with its name flushed; `within` is there already, or it fails with ENOENT.
 * Throws Refused where one of them is a link.
 */
export async function makeFolder(folder: DiskPath, within?: DiskPath): Promise<void> {
  const made: string[] = [];
  for (let at = folder; ; at = path.dirname(at)) {
    try {
      await fs.mkdir(diskPath(at));
      await checkFolder(at).catch(async (e: unknown) => {
        await fs.rmdir(diskPath(at));
        throw e;
      });
      made.push(at);
      break;
    } catch (e) {
      if (e instanceof ShelfError) throw e;
      if (isCode(e, 'EEXIST') || at === path.dirname(at)) {
        if (!(await fs.stat(diskPath(at))).isDirectory())
          throw new Clash(`${path.basename(at)} is a file: there can be no folder of that name.`, {
            file: at,
            next: 'Move the file away, or choose another folder.',
          });
        await checkFolder(at);
        break;
      }
      // A file may be in the way further up.
      if (isCode(e, 'ENOTDIR')) continue;
      if (!isCode(e, 'ENOENT') || path.dirname(at) === within) throw e;
      made.push(at);
    }
  }
  // The topmost was made by the loop; those below it come now, from the top.
  for (const at of made.reverse()) {
    await fs.mkdir(diskPath(at)).catch((e: unknown) => {
      if (!isCode(e, 'EEXIST')) throw e;
    });
    await tell({ op: 'folder', file: at });
    await flushFolder(path.dirname(at));
  }
}
