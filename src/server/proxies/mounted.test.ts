import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { renameSync } from 'node:fs';
import path from 'node:path';
import { beginJob } from '../jobs/jobs';
import { addRoot } from '../places';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { mayMount, RealMounts } from '../testing/realMounts';
import { takeInCard } from '../testing/takeInCard';
import { adopt } from './adopt';
import { proxiesView } from './views';

// A running server looks at the files of pairs when a volume has come, long before it would by its clock.

let s: TestShelf;
let drive: string;
let image: string;
const drives = new RealMounts();
/** Waits, for less than the two minutes after which all pairs are looked at in any case. */
async function until(isSo: () => boolean | Promise<boolean>): Promise<void> {
  const begun = performance.now();
  while (!(await isSo())) {
    if (performance.now() - begun > 100_000) throw new Error('it did not come to be so');
    await new Promise((r) => setTimeout(r, 200));
  }
}
const pairIs = (state: string) =>
  until(async () => (await proxiesView(s.runtime)).pairs.some((p) => p.file !== null && p.state === state));

(mayMount ? describe : describe.skip)('proxies on a drive', () => {
  beforeAll(async () => {
    s = await testShelf({ byItself: true });
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    image = drives.image('uploads', 'UPLOADS', 32);
    drive = drives.mount('uploads', image);
    const of = { frames: 10, start: '10:00:00:00' };
    makeClip(path.join(s.shelf, 'In', 'T0001.MP4'), of);
    makeClip(path.join(drive, 'T0001.mov'), { ...of, scaledTo: '160:90', codec: ['-c:v', 'mjpeg'] });
    await takeInCard(s);
    const root = (await addRoot(s.runtime, { kind: 'source', path: drive })).id;
    const clip = async () => (await proxiesView(s.runtime)).clips[0]?.clip;
    await until(async () => (await clip()) !== undefined);
    await adopt(s.runtime, { root, pairs: [{ path: 'T0001.mov', clip: (await clip())! }] });
    await pairIs('proven');
  }, 240_000);
  afterAll(async () => {
    await s.close();
    drives.end();
  });

  test('one that was moved on another machine is lost when its drive is back, and found when it is as it was', async () => {
    const { events } = s.runtime;
    const elsewhere = async (from: string, to: string) => {
      const before = events.revisionOf(['places']);
      drives.unmount(drive);
      await until(() => events.revisionOf(['places']) > before);
      const there = drives.mount('other machine', image);
      renameSync(path.join(there, from), path.join(there, to));
      drives.unmount(there);
      drives.mount('uploads', image);
    };
    await elsewhere('T0001.mov', 'moved.mov');
    await pairIs('lost');
    await elsewhere('moved.mov', 'T0001.mov');
    await pairIs('proven');
    const of = (await proxiesView(s.runtime)).pairs.filter((p) => p.file !== null);
    expect(of).toEqual([expect.objectContaining({ state: 'proven', reason: '' })]);
  }, 240_000);

  test('one that is back while it is looked at where its drive went, and gone again before the next look, is seen to be gone', async () => {
    const { events, devices } = s.runtime;
    const { mounted } = devices;
    const changed = events.changed.bind(events);
    let told = 0;
    events.changed = (...what) => {
      if (what.includes('places')) told++;
      changed(...what);
    };
    let back = false;
    devices.mounted = () => {
      if (!back) drives.mount('uploads', image);
      back = true;
      return mounted();
    };
    try {
      drives.unmount(drive);
      // It is told at the beginning of the look, and at its end.
      await until(() => back && told >= 2);
      const before = told;
      drives.unmount(drive);
      await until(() => told > before);
    } finally {
      devices.mounted = mounted;
      events.changed = changed;
    }
    drives.mount('uploads', image);
  }, 240_000);
});
