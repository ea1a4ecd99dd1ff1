import { createHash } from 'node:crypto';
import path from 'node:path';
import type { DiskPath } from '../../../core/platform/names';
import { joinPath } from './names';

/**
 * The name a copy has until it is proven: hidden, beside its target, told apart from every name a camera gives, and short
 * where the target's name is as long as a name can be.
 */
export const partName = (to: DiskPath): string =>
  joinPath(
    path.dirname(to),
    `.${createHash('sha1').update(path.basename(to)).digest('hex').slice(0, 20)}.part`,
  );
