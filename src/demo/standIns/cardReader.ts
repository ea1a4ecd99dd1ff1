import { existsSync, mkdirSync, openSync, closeSync } from 'node:fs';
import path from 'node:path';
import { diskPath } from '../../server/platform/files/names';
import * as disk from '../../server/transfer/disk';
import type { OpenSource, OpenTarget } from '../../server/transfer';
import { faultsOf, freeOf, placeIn } from './standIns';

// What the copying threads load in place of the disk where a card is in a stand-in slot or goes to a stand-in drive.

const folder = process.env.SORT_SHELF_STAND_INS ?? '';

const fail = (code: string, text: string): Error => Object.assign(new Error(`${code}: ${text}`), { code });

/** True the first time it is asked for a name, in whichever thread. */
function once(name: string): boolean {
  const marks = path.join(folder, 'faults', 'marks');
  mkdirSync(marks, { recursive: true });
  try {
    closeSync(openSync(path.join(marks, name.replace(/[^\w.-]+/g, '_')), 'wx'));
    return true;
  } catch {
    return false;
  }
}

let passing: Promise<unknown> = Promise.resolve();
/** Lets time pass, one after the other: a card gives its bytes one at a time, however many files are asked for. Milliseconds. */
function pass(time: number): Promise<unknown> {
  passing = passing.then(() => new Promise((r) => setTimeout(r, time)));
  return passing;
}

export const openSource: OpenSource = async (file, again) => {
  const place = placeIn(folder, 'readers', file);
  const inner = await disk.openSource(file, again);
  if (!place) return inner;
  const { size } = await inner.stat();
  let [failing, flipping] = [false, false];
  const name = path.basename(file);
  const first = faultsOf(folder, place.of);
  if (first.failRead && name.includes(first.failRead.file)) {
    for (let i = 0; i < first.failRead.times && !failing; i++)
      failing = once(`${place.of}-fail-${i}-${name}`);
  }
  if (first.flip && name.includes(first.flip.file)) flipping = once(`${place.of}-flip-${name}`);
  return {
    ...inner,
    async read(buffer, at) {
      const { slow } = faultsOf(folder, place.of);
      // A slow card gives a little at a time, so that its slowness is even.
      const part =
        slow === null
          ? buffer
          : buffer.subarray(0, Math.max(4096, Math.min(buffer.length, Math.floor(slow / 4 / 4096) * 4096)));
      const n = await inner.read(part, at);
      if (slow !== null && n > 0) await pass((n / slow) * 1000);
      if (!existsSync(diskPath(file))) throw fail('EIO', 'the card was pulled out');
      if (failing && at + n >= size / 2) throw fail('EIO', 'the stand-in was told to fail here');
      if (flipping && n > 0 && at === 0) part[Math.floor(n / 2)]! ^= 0x10;
      return n;
    },
  };
};

export const openTarget: OpenTarget = async (file) => {
  const place = placeIn(folder, 'drives', file);
  const inner = await disk.openTarget(file);
  return {
    ...inner,
    async write(bytes) {
      const free = place ? freeOf(folder, place.of) : null;
      if (free !== null && free < bytes.length) throw fail('ENOSPC', 'no space left on device');
      await inner.write(bytes);
    },
  };
};
