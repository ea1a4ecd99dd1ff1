import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync, truncateSync, utimesSync } from 'node:fs';
import path from 'node:path';
import type { WatchedThrough } from '../../core/proxies/shapes';
import { analyses } from '../analysis/tables';
import { cached } from '../analysis/store';
import { clips } from '../cards/tables';
import { checkedOf } from '../choose/findings';
import { beginJob } from '../jobs/jobs';
import { FFMPEG } from '../platform/media/tools';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { proxiesView } from './views';

let s: TestShelf;
const at = (name: string): string => path.join(s.shelf, 'In', name);
beforeEach(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  mkdirSync(path.join(s.shelf, 'In'));
});
afterEach(() => s.close());

const idsByName = async () =>
  new Map((await s.runtime.db.select().from(clips)).map((c) => [c.original, c.id]));
async function watch(ids: readonly string[]): Promise<WatchedThrough> {
  const { task } = await s.runtime.queue.begin({ kind: 'watchThrough', job: TEST_JOB, wanted: [...ids] });
  await s.runtime.queue.drainKind('watchThrough');
  const view = await s.runtime.queue.view(task);
  expect(view!.problem).toBeNull();
  return view!.result as WatchedThrough;
}
const watched = async () =>
  (await proxiesView(s.runtime)).clips.filter((c) => c.watched).map((c) => String(c.name));

test('clips of which nothing is made are checked once; what is found are ranges; of another file nothing counts', async () => {
  makeClip(at('T1.mov'), { frames: 25, start: '10:00:00:00', codec: ['-c:v', 'prores_ks'] });
  execFileSync(FFMPEG(), [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=6'],
    ...['-f', 'lavfi', '-i', 'sine=f=440:r=48000:d=6', '-vf', "drawbox=c=black:t=fill:enable='lt(t,2.99)'"],
    ...['-c:v', 'prores_ks', '-c:a', 'pcm_s16le', '-timecode', '11:00:00:00', at('T2.mov')],
  ]);
  await takeInCard(s);
  const ids = await idsByName();
  expect(await watched()).toEqual([]);
  expect(await watch([...ids.values()])).toEqual({ clips: 2, found: 1, faults: [] });
  expect(await watched()).toEqual(['T1', 'T2']);
  const found = await checkedOf(s.runtime);
  expect([...found.values()].flat().map((r) => [r.clip, r.name, r.from, r.to])).toEqual([
    [ids.get('T2'), 'black picture', 0, 75],
  ]);
  for (const id of ids.values())
    expect([cached(s.runtime, 'filmstrips', id), cached(s.runtime, 'posters', id)].map(existsSync)).toEqual([
      true,
      true,
    ]);
  expect(readdirSync(path.join(s.runtime.home, 'cache', 'making'))).toEqual([]);
  // What was checked is not again.
  const before = await s.runtime.db.select().from(analyses);
  expect(await watch([...ids.values(), 'nobody'])).toEqual({ clips: 0, found: 0, faults: [] });
  expect(await s.runtime.db.select().from(analyses)).toEqual(before);
});

test('a clip that cannot be decoded to its end is said and stays unchecked, and the others are checked', async () => {
  for (const n of [1, 2, 3])
    makeClip(at(`T${n}.mov`), {
      frames: 25,
      start: `1${n}:00:00:00`,
      codec: ['-c:v', 'prores_ks', '-movflags', '+faststart'],
    });
  await takeInCard(s);
  const ids = await idsByName();
  truncateSync(at('T2.mov'), Math.round(statSync(at('T2.mov')).size * 0.6));
  utimesSync(at('T3.mov'), 1000, 1000);
  const { clips: done, faults } = await watch([...ids.values()]);
  expect(done).toBe(1);
  expect(faults.sort()).toEqual([
    expect.stringMatching(/^Of T2\.mov \d+ of 25 frames can be decoded\.$|^T2\.mov could not be checked: /),
    'T3 has changed since it was read: read its card again.',
  ]);
  expect(await watched()).toEqual(['T1']);
});
