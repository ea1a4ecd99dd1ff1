import * as sync from 'node:fs';
import * as fs from 'node:fs/promises';
import type { DiskPath } from '../../../core/platform/names';
import { diskPath, nameFromBytes } from './names';

// Node's file system for paths as the disk has them: byte by byte where they are no text. The server opens nothing past these
// (a lint rule holds it), so that no name is lost on the way to the disk, and none that was made to be shown gets there.

export type { FileHandle } from 'node:fs/promises';
export { constants } from 'node:fs';

export const stat = (file: DiskPath) => fs.stat(diskPath(file));
export const lstat = (file: DiskPath) => fs.lstat(diskPath(file));
export const statfs = (folder: DiskPath) => fs.statfs(diskPath(folder));
/** Bytes that may still be written on a folder's volume; without end where that is not told. */
export const freeBytes = (folder: DiskPath): Promise<number> =>
  statfs(folder).then(
    (s) => s.bavail * s.bsize,
    () => Infinity,
  );
/** Bytes below which a volume counts as full: no database opens with less, and a program that writes there fails. */
export const LEAST_ROOM = 4 << 20;
export const access = (file: DiskPath, mode?: number) => fs.access(diskPath(file), mode);
/** The path with every link on it followed. */
export const realpath = async (file: DiskPath): Promise<DiskPath> =>
  nameFromBytes(await fs.realpath(diskPath(file), { encoding: 'buffer' }));
/** What is in a folder, in no order. */
export const readdir = async (folder: DiskPath) =>
  (await fs.readdir(diskPath(folder), { withFileTypes: true, encoding: 'buffer' })).map((e) => ({
    name: nameFromBytes(e.name as unknown as Uint8Array),
    kind: e.isFile() ? ('file' as const) : e.isDirectory() ? ('folder' as const) : ('other' as const),
  }));
/** The names in a folder, in no order. */
export const namesIn = async (folder: DiskPath): Promise<DiskPath[]> =>
  (await readdir(folder)).map((e) => e.name);
export const readText = (file: DiskPath): Promise<string> => fs.readFile(diskPath(file), 'utf8');
export const readFile = (file: DiskPath): Promise<Buffer> => fs.readFile(diskPath(file));
export const writeFile = (file: DiskPath, contents: string | Uint8Array, options?: { flag?: string }) =>
  fs.writeFile(diskPath(file), contents, options);
/** Makes a folder and those around it. */
export const mkdir = (folder: DiskPath) => fs.mkdir(diskPath(folder), { recursive: true });
/** Makes a folder that must not be there yet. */
export const mkdirNew = (folder: DiskPath) => fs.mkdir(diskPath(folder));
export const rm = (file: DiskPath, options?: { recursive?: boolean; force?: boolean }) =>
  fs.rm(diskPath(file), options);
export const rename = (from: DiskPath, to: DiskPath) => fs.rename(diskPath(from), diskPath(to));
/** Makes a link at `at` that leads to `target`. */
export const symlink = (target: DiskPath, at: DiskPath) => fs.symlink(diskPath(target), diskPath(at));
export const mkdtemp = (prefix: string): Promise<string> => fs.mkdtemp(prefix);
export const open = (file: DiskPath, flags: string | number) => fs.open(diskPath(file), flags);
export const existsSync = (file: DiskPath): boolean => sync.existsSync(diskPath(file));
/** Hears of changes in a folder, not of those below it; the process may end meanwhile. */
export const listenTo = (
  folder: DiskPath,
  heard: (what: string, name: string | null) => void,
): sync.FSWatcher => sync.watch(diskPath(folder), { persistent: false }, heard);
export type { FSWatcher } from 'node:fs';
export const openSync = (file: DiskPath, flags: string | number): number =>
  sync.openSync(diskPath(file), flags);
