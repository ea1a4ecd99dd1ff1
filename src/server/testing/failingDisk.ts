import { jest } from '@jest/globals';
import { readlinkSync } from 'node:fs';
import { type FileHandle, open } from 'node:fs/promises';
import { type DiskOp, layer } from '../platform/files/fileSystem';

/** What a change that fails does: it is refused, or it is done though its answer says that it is not, as by a share that lost the answer. */
export const FAILS = ['refused', 'unanswered'] as const;

/** What could not be made is not there: only what is done by name can be done and say otherwise. */
const BY_NAME: readonly DiskOp['op'][] = ['link', 'rename', 'remove', 'removeFolder', 'flushFolder'];

/**
 * Has one change to the disk fail with EIO while `work` runs: the one of that number, from 0. Changes made by threads are not counted. Resolves
 * with whether so many were made; rejects as `work` does.
 */
export async function withFailingChange(
  number: number,
  how: (typeof FAILS)[number],
  work: () => Promise<unknown>,
): Promise<boolean> {
  let n = 0;
  const count = ({ op }: DiskOp): void => {
    if (how === 'unanswered' && !BY_NAME.includes(op)) return;
    if (n++ === number) throw Object.assign(new Error('EIO: i/o error'), { code: 'EIO' });
  };
  Object.assign(layer, how === 'refused' ? { ask: count } : { tell: count });
  await work().finally(() => Object.assign(layer, { ask: null, tell: null }));
  return n > number;
}

/** Has a file refuse every reading with EIO while `work` runs; what threads read is not refused. */
export async function whileUnreadable<T>(file: string, work: () => Promise<T>): Promise<T> {
  const handle = await open(file);
  const kind = Object.getPrototypeOf(handle) as FileHandle;
  await handle.close();
  const read = Reflect.get(kind, 'read') as () => unknown;
  const bad = jest.spyOn(kind, 'read').mockImplementation(async function (
    this: FileHandle,
    ...args: never[]
  ) {
    if (readlinkSync(`/proc/self/fd/${this.fd}`) === file)
      throw Object.assign(new Error('EIO: i/o error, read'), { code: 'EIO' });
    return Reflect.apply(read, this, args) as unknown;
  } as FileHandle['read']);
  return work().finally(() => bad.mockRestore());
}
