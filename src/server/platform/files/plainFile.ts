import {
  closeSync,
  constants,
  fstatSync,
  lstatSync,
  openSync,
  readlinkSync,
  realpathSync,
  type Stats,
} from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import type { DiskPath } from '../../../core/platform/names';
import { isCode, NotFound, Refused, Unreadable } from '../errors';
import { diskPath, nameFromBytes, shownName } from './names';

// The only way a file of the person's is opened for reading. A card or a share may hold anything: pipes and devices, at which an
// opening waits for ever, and links, which may come at any moment between a look and the opening.

const FLAGS = constants.O_RDONLY | (constants.O_NOFOLLOW ?? 0) | (constants.O_NONBLOCK ?? 0);
const isLinux = process.platform === 'linux';

/** Refusals keep the code of what the file system would have said, by which copying tells what became of a file. */
const refused = (code: string, what: string, file: DiskPath): Refused =>
  Object.assign(
    new Refused(`${shownName(file)} ${what}`, { file, next: 'Pipes, devices and links are not read.' }),
    { code },
  );
const gone = (file: DiskPath): NotFound =>
  Object.assign(
    new NotFound(`${shownName(file)} is no longer there.`, {
      file,
      next: 'Put the card or volume back, or look at the folder again.',
    }),
    { code: 'ENOENT' },
  );
const noPlainFile = (file: DiskPath): Refused => refused('ENXIO', 'is not a regular file.', file);

/** Throws where what was opened is not a regular file, or does not stand where it was looked for. */
function checkOpened(fd: number, file: DiskPath): void {
  if (!fstatSync(fd).isFile()) throw noPlainFile(file);
  checkPlace(fd, file);
}

/** Throws where what is open is not at its path: a folder on it is, or has become, a link. */
export function checkPlace(fd: number, file: DiskPath): void {
  const opened = isLinux
    ? nameFromBytes(readlinkSync(`/proc/self/fd/${fd}`, { encoding: 'buffer' }))
    : nameFromBytes(realpathSync(diskPath(file), { encoding: 'buffer' }));
  if (opened === file && isLinux) return;
  // A volume that ignores case, or the form of letters, may give its own.
  if (isSameName(opened, file) && isSame(fstatSync(fd), lstatSync(diskPath(file)))) return;
  if (opened === `${file} (deleted)`) throw gone(file);
  throw refused('ELOOP', 'has moved, or its path leads through a link.', file);
}

/** Whether two paths are one on a volume that ignores case and the form of letters. */
export const isSameName = (a: string, b: string): boolean =>
  a === b || a.normalize('NFC').toLowerCase() === b.normalize('NFC').toLowerCase();
const isSame = (a: Stats, b: Stats): boolean => a.dev === b.dev && a.ino === b.ino;

/** Why a file could not be opened, in our words where it is a link or waits for somebody. */
const reasonOf = (e: unknown, file: DiskPath): unknown => {
  if (isCode(e, 'ELOOP', 'EMLINK')) return refused('ELOOP', 'is a link.', file);
  if (isCode(e, 'ENXIO', 'ENODEV')) return noPlainFile(file);
  if (isCode(e, 'ENOENT', 'ENOTDIR')) return gone(file);
  return e;
};

/**
 * Opens a plain file for reading, by the real path it is at; with `extra` flags of open(2). Never waits, never follows a link.
 * Throws Refused for anything else that is there, and what the file system throws.
 */
export function openPlainSync(file: DiskPath, extra = 0): number {
  let fd: number;
  try {
    fd = openSync(diskPath(file), FLAGS | extra);
  } catch (e) {
    throw reasonOf(e, file);
  }
  try {
    checkOpened(fd, file);
    return fd;
  } catch (e) {
    closeSync(fd);
    throw e;
  }
}

/** The same, for what is read bit by bit. */
export async function openPlain(file: DiskPath): Promise<FileHandle> {
  const handle = await open(diskPath(file), FLAGS).catch((e: unknown) => {
    throw reasonOf(e, file);
  });
  try {
    checkOpened(handle.fd, file);
    return handle;
  } catch (e) {
    await handle.close();
    throw e;
  }
}

const APPEND =
  constants.O_WRONLY |
  constants.O_APPEND |
  constants.O_CREAT |
  (constants.O_NOFOLLOW ?? 0) |
  (constants.O_NONBLOCK ?? 0);

/**
 * Opens a file to write at its end, and makes it where there is none. Never waits, never follows a link in its place. Throws Refused for anything
 * that is no plain file, and what the file system throws.
 */
export function openToAppendSync(file: DiskPath): number {
  let fd: number;
  try {
    fd = openSync(diskPath(file), APPEND);
  } catch (e) {
    throw reasonOf(e, file);
  }
  if (fstatSync(fd).isFile()) return fd;
  closeSync(fd);
  throw noPlainFile(file);
}

/** The same, for what is written bit by bit. */
export async function openToAppend(file: DiskPath): Promise<FileHandle> {
  const handle = await open(diskPath(file), APPEND).catch((e: unknown) => {
    throw reasonOf(e, file);
  });
  if ((await handle.stat()).isFile()) return handle;
  await handle.close();
  throw noPlainFile(file);
}

/** The first bytes of an open file, as many as there are. */
export async function headOf(handle: FileHandle, most: number): Promise<Buffer> {
  const buffer = Buffer.alloc(most);
  const { bytesRead } = await handle.read(buffer, 0, most, 0);
  return buffer.subarray(0, bytesRead);
}

/** Up to `most` bytes of a plain file, from its beginning. */
export async function readPlain(file: DiskPath, most: number): Promise<Buffer> {
  const handle = await openPlain(file);
  try {
    const size = Math.min(most, (await handle.stat()).size);
    return await headOf(handle, size);
  } finally {
    await handle.close();
  }
}

/** All of a plain file. Throws Unreadable where it has more than `most` bytes. */
export async function readAll(file: DiskPath, most: number): Promise<Buffer> {
  const handle = await openPlain(file);
  try {
    if ((await handle.stat()).size > most)
      throw new Unreadable(`${shownName(file)} is larger than ${Math.round(most / 2 ** 20)} MB.`, { file });
    return await handle.readFile();
  } finally {
    await handle.close();
  }
}

/** The path at which a program started by this process opens what is open here, and nothing else, whatever has come to its path since (Linux; elsewhere the path itself). */
export const pathOfOpen = (handle: FileHandle, file: DiskPath): DiskPath =>
  isLinux ? `/proc/${process.pid}/fd/${handle.fd}` : file;
