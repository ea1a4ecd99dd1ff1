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
