import { createHash } from 'node:crypto';
import { homedir, hostname } from 'node:os';
import path from 'node:path';
import type { DiskPath } from '../../../core/platform/names';
import { joinPath } from './names';

/**
 * A hidden name beside a target, told apart from every name a camera gives, and short where the target's name is as long as a name can be.
 * Each data folder has its own, the same in every thread and after each start: what another server is writing there is none of ours to remove.
 */
export function hiddenName(to: DiskPath, ending: 'part' | 'claim'): string {
  const owner = `${hostname()}\0${path.resolve(process.env.SORT_SHELF_HOME || homedir())}`;
  const name = createHash('sha1')
    .update(`${owner}\0${path.basename(to)}`)
    .digest('hex')
    .slice(0, 20);
  return joinPath(path.dirname(to), `.${name}.${ending}`);
}

/** The name a copy has until it is proven. */
export const partName = (to: DiskPath): string => hiddenName(to, 'part');
