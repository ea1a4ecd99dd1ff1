import { randomUUID } from 'node:crypto';
import * as z from 'zod';
import type { DiskPath } from '../../core/platform/names';
import { isCode } from '../platform/errors';
import { createFile, flushFolder, makeFolder, removeFile, replaceFile } from '../platform/files/fileSystem';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { partName } from '../platform/files/partName';
import { readAll } from '../platform/files/plainFile';

// The file by which a folder is known wherever its drive is mounted. It names nothing but itself: what the folder is for stands in the database.

const FILE = 'place.json';
/** Where it stands below the folder that it marks. */
export const MARKER = `${OWN_FOLDER}/${FILE}`;
const VERSION = 1;
/** Most bytes a marker has. */
const MOST = 4096;

const Marker = z.object({
  is: z.literal('a place of Sort Shelf'),
  version: z.int(),
  /** Random, and of this folder alone. */
  mark: z.uuid(),
});

export const newMark = (): string => randomUUID();

/** The mark a folder carries; `null` where it carries none that can be read. */
export async function markAt(folder: DiskPath): Promise<string | null> {
  try {
    const text = (await readAll(joinPath(folder, OWN_FOLDER, FILE), MOST)).toString('utf8');
    return Marker.parse(JSON.parse(text)).mark;
  } catch {
    return null;
  }
}

/**
 * Marks a folder; one that carried another mark carries it no more. Returns `false` where the folder takes no files, as on a
 * volume that is only read.
 */
export async function setMark(folder: DiskPath, mark: string): Promise<boolean> {
  const own = joinPath(folder, OWN_FOLDER);
  const to = joinPath(own, FILE);
  const part = partName(to);
  try {
    await makeFolder(own);
    await removeFile(part).catch((e: unknown) => {
      if (!isCode(e, 'ENOENT')) throw e;
    });
    const made = createFile(part);
    try {
      const marker: z.infer<typeof Marker> = { is: 'a place of Sort Shelf', version: VERSION, mark };
      made.write(Buffer.from(`${JSON.stringify(marker, null, 2)}\n`));
      made.flush();
    } finally {
      made.close();
    }
    await replaceFile(part, to);
    await flushFolder(own);
    return true;
  } catch (e) {
    if (isCode(e, 'EACCES', 'EPERM', 'EROFS', 'ENOSPC', 'EDQUOT', 'EIO')) return false;
    throw e;
  }
}
