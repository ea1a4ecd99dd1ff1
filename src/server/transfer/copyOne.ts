import path from 'node:path';
import type { DiskPath } from '../../core/platform/names';
import { Clash, NotFound, Unreadable } from '../platform/errors';
import { removeFile } from '../platform/files/fileSystem';
import { checkUnchanged, type Expected } from '../platform/files/move';
import type { OnVolume } from '../platform/files/onVolume';
import { copyFiles, hashInThread } from './pool';
import { STOPPED } from './task';
import { lstat } from '../platform/files/onDisk';

const noGate = (): SharedArrayBuffer => new SharedArrayBuffer(8);

/**
 * Makes a verified copy of one file in a thread: written under a temporary name beside the target and flushed, read back and
 * compared with the hash taken while reading, and only then named, never over another file. The copy keeps the source's
 * time. Returns the XXH3-128 both hold. `gate` can stop it; it then throws STOPPED and leaves nothing behind.
 * Where the volume that it goes to, `on`, is taken away meanwhile it fails.
 */
export async function copyVerified(
  from: DiskPath,
  to: DiskPath,
  expected: Expected,
  { gate = noGate(), on = null }: { gate?: SharedArrayBuffer; on?: OnVolume | null } = {},
): Promise<string> {
  await checkUnchanged(from, expected);
  if (await lstat(to).catch(() => null))
    throw new Clash(`${path.basename(to)} is there already.`, {
      file: to,
      next: 'Move it away or choose another name.',
    });
  const [outcome] = await copyFiles({
    files: [{ number: 0, from, size: expected.size, modified: expected.modified, to: [to] }],
    on: [on],
    kind: 'xxh128',
    verification: 'contents',
    reader: null,
    writer: null,
    gate,
    counter: new SharedArrayBuffer(8),
  });
  if (outcome!.state === 'verified') return outcome!.hash;
  const { where, code, text } = outcome!;
  if (code === STOPPED) throw Object.assign(new Error('stopped'), { code: STOPPED });
  await checkUnchanged(from, expected);
  const file = where === 'source' ? from : to;
  // What stands at its path by now tells nothing of the copy.
  if (code === 'ENODEV')
    throw new NotFound(`${path.basename(file)}: ${text}.`, {
      file,
      next: 'Connect the volume, then apply again.',
    });
  if (code === 'EEXIST')
    throw new Clash(`${path.basename(to)}: ${text}.`, { file, next: 'Move it away or choose another name.' });
  throw new Unreadable(`${path.basename(file)}: ${text}.`, {
    file,
    next:
      where === 'source'
        ? 'Check the volume it is read from, then apply again.'
        : 'Check the volume it was written to, then apply again.',
  });
}

/**
 * Removes a copy, after proving that it and its source still hold the same bytes: the last good copy is never the one
 * that goes.
 */
export async function removeCopy(
  copy: DiskPath,
  source: DiskPath,
  expected: Expected,
  gate = noGate(),
): Promise<void> {
  await checkUnchanged(source, expected);
  await checkUnchanged(copy, expected);
  const [a, b] = await Promise.all(
    [copy, source].map((file) =>
      hashInThread({ file, kinds: ['xxh128'], gate, counter: new SharedArrayBuffer(8) }),
    ),
  );
  if (a![0] !== b![0])
    throw new Clash(`${path.basename(copy)} no longer holds the same as its source.`, {
      file: copy,
      next: 'Both are left as they are. Compare them by hand.',
    });
  await removeFile(copy);
}
