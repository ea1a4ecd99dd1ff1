import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { beginJob } from '../jobs';
import { work } from '../platform/work/tables';
import { workSummary } from '../proxies';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { mayMount, RealMounts } from '../testing/realMounts';
import { takeInCard } from '../testing/takeInCard';

let s: TestShelf;
const real = new RealMounts();
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(async () => {
  real.end();
  await s.close();
});

(mayMount ? describe : describe.skip)('the volume of the data folder is full', () => {
  test('pictures wait for room, which is said, and are made once there is some', async () => {
    const strips = path.join(s.runtime.home, 'cache', 'filmstrips');
    mkdirSync(strips, { recursive: true });
    real.bind(real.mount('full'), strips);
    expect(() => writeFileSync(path.join(strips, 'fill'), Buffer.alloc(16 << 20))).toThrow(/ENOSPC/);
    makeClip(path.join(s.shelf, 'In', 'B001', 'CLIP', 'T0001.MP4'), { start: '14:22:05:00', frames: 10 });
    await takeInCard(s);
    await s.runtime.queue.drainKind('filmstrip');
    const now = async () => (await s.runtime.db.select().from(work)).find((w) => w.kind === 'filmstrip')!;
    expect(await now()).toMatchObject({
      state: 'waiting',
      fault: 'The data folder’s volume is full.',
    });
    expect(await workSummary(s.runtime)).toMatchObject({
      filmstrip: 0,
      waiting: [{ why: 'The data folder’s volume is full.', clips: 1 }],
    });
    rmSync(path.join(strips, 'fill'));
    await s.runtime.queue.resume([(await now()).id]);
    await s.runtime.queue.drainKind('filmstrip');
    const { state, subject } = await now();
    expect([state, existsSync(path.join(strips, `${subject}.jpg`))]).toEqual(['done', true]);
    expect(await workSummary(s.runtime)).toMatchObject({ filmstrip: 0, waiting: [] });
  });
});
