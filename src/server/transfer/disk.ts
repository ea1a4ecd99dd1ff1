import { closeSync, fstatSync, readSync } from 'node:fs';
import { isCode } from '../platform/errors';
import { createFile } from '../platform/files/fileSystem';
import type { OpenSource, OpenTarget } from './task';
import { constants } from '../platform/files/onDisk';
import { openPlainSync } from '../platform/files/plainFile';

// The calls wait inside the thread: it has nothing else to do, and handing each over to Node's own threads costs more.

/**
 * Opens a plain file for reading, never through a link. With `again` it is read past the system's cache where the volume can do
 * that (O_DIRECT, Linux; buffers must lie on page bounds), so that bytes come from the medium and not from memory.
 */
export const openSource: OpenSource = async (file, again) => {
  const direct = again ? (constants.O_DIRECT ?? 0) : 0;
  let fd: number;
  try {
    fd = openPlainSync(file, direct);
  } catch (e) {
    if (direct === 0 || !isCode(e, 'EINVAL', 'ENOTSUP')) throw e;
    fd = openPlainSync(file);
  }
  return {
    async stat() {
      const s = fstatSync(fd);
      return { size: s.size, modified: Math.round(s.mtimeMs), isFile: s.isFile() };
    },
    read: async (buffer, at) => readSync(fd, buffer, 0, buffer.length, at),
    close: async () => closeSync(fd),
  };
};

/** Makes a file that must not be there yet. */
export const openTarget: OpenTarget = async (file) => {
  const made = createFile(file);
  return {
    write: async (bytes) => made.write(bytes),
    sync: async () => made.flush(),
    close: async () => made.close(),
  };
};
