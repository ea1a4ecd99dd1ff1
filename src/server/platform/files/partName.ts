import { createHash } from 'node:crypto';
import { homedir, hostname } from 'node:os';
import path from 'node:path';
import type { DiskPath } from '../../../core/platform/names';
import { joinPath } from './names';

const sha1 = (text: string): string => createHash('sha1').update(text).digest('hex');

/** The data folder this process works with, among all that may write to one place: the same in every thread, and after each start. */
const owner = (): string => `${hostname()}\0${path.resolve(process.env.SORT_SHELF_HOME || homedir())}`;

/** Eight digits that tell what is being made for this data folder from what others make. */
export const ownerMark = (): string => sha1(owner()).slice(0, 8);

/**
 * A hidden name beside a target, told apart from every name a camera gives, and short where the target's name is as long as a name can be.
 * Each data folder has its own: what another server is writing there is none of ours to remove.
 */
export function hiddenName(to: DiskPath, ending: 'part' | 'claim'): string {
  const name = sha1(`${owner()}\0${path.basename(to)}`).slice(0, 20);
  return joinPath(path.dirname(to), `.${name}.${ending}`);
}

/** The name a copy has until it is proven. */
export const partName = (to: DiskPath): string => hiddenName(to, 'part');
