import { createHash } from 'node:crypto';
import { mkdir, open, stat, unlink, utimes } from 'node:fs/promises';
import path from 'node:path';
import { Clash, Unreadable } from '../errors';
import { chunksOf, hashFile, newHash } from './hash';
import { checkUnchanged, type Expected, renameExclusively } from './move';

/**
 * The name a copy has until it is proven: hidden, beside its target, told apart from every name a camera gives, and short
 * where the target's name is as long as a name can be.
 */
export const partName = (to: string): string => path.join(path.dirname(to), `.${createHash('sha1').update(path.basename(to)).digest('hex').slice(0, 20)}.part`);

/**
 * Makes a verified copy: written under a temporary name beside the target and flushed, read back and compared with the
 * hash taken while reading, and only then named, never over another file. The copy keeps the source's time. Returns
 * the XXH3-128 both hold.
 */
export async function copyVerified(from: string, to: string, expected: Expected): Promise<string> {
  await checkUnchanged(from, expected);
  await mkdir(path.dirname(to), { recursive: true });
  const part = partName(to);
  const hash = newHash();
  try {
    const target = await open(part, 'w');
    try {
      for await (const chunk of chunksOf(from)) {
        hash.update(chunk);
        await target.writeFile(chunk);
      }
      await target.sync();
    } finally {
      await target.close();
    }
    await checkUnchanged(from, expected);
    const read = hash.digest();
    if ((await hashFile(part)) !== read) {
      throw new Unreadable(`The copy of ${path.basename(from)} does not read back the same.`, { file: to, next: 'Check the volume it was written to, then apply again.' });
    }
    await utimes(part, (await stat(from)).atime, expected.modified / 1000);
    await renameExclusively(part, to);
    return read;
  } finally {
    await unlink(part).catch(() => undefined);
  }
}

/**
 * Removes a copy, after proving that it and its source still hold the same bytes: the last good copy is never the one
 * that goes.
 */
export async function removeCopy(copy: string, source: string, expected: Expected): Promise<void> {
  await checkUnchanged(source, expected);
  await checkUnchanged(copy, expected);
  if ((await hashFile(copy)) !== (await hashFile(source))) {
    throw new Clash(`${path.basename(copy)} no longer holds the same as its source.`, { file: copy, next: 'Both are left as they are. Compare them by hand.' });
  }
  await unlink(copy);
}
