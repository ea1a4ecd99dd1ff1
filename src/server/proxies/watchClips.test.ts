import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync, truncateSync, utimesSync } from 'node:fs';
import path from 'node:path';
import type { WatchedThrough } from '../../core/proxies/shapes';
import { analyses } from '../analysis/tables';
import { cached, waveformOf } from '../analysis/store';
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
/** Names of the clips that are to be checked yet. */
const unwatched = async (): Promise<string[]> => {
  const names = new Map([...(await idsByName())].map(([name, id]) => [id, name]));
  return (await proxiesView(s.runtime)).unwatched.map((id) => names.get(id)!).sort();
};
/** Sound by FFmpeg's sources, in one file of 24 bits. */
const record = (name: string, graph: string): void =>
  void execFileSync(FFMPEG(), [
    ...['-v', 'error', '-filter_complex', `${graph}[out]`, '-map', '[out]'],
    ...['-c:a', 'pcm_s24le', at(name)],
  ]);
const foundOf = async () =>
  [...(await checkedOf(s.runtime)).values()].flat().map((r) => [r.clip, r.name, r.from, r.to]);

test('clips of which nothing is made are checked once; what is found are ranges; of another file nothing counts', async () => {
  makeClip(at('T1.mov'), { frames: 25, start: '10:00:00:00', codec: ['-c:v', 'prores_ks'] });
  execFileSync(FFMPEG(), [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=6'],
    ...['-f', 'lavfi', '-i', 'sine=f=440:r=48000:d=6', '-vf', "drawbox=c=black:t=fill:enable='lt(t,2.99)'"],
    ...['-c:v', 'prores_ks', '-c:a', 'pcm_s16le', '-timecode', '11:00:00:00', at('T2.mov')],
  ]);
  await takeInCard(s);
  const ids = await idsByName();
  expect(await unwatched()).toEqual(['T1', 'T2']);
  expect(await watch([...ids.values()])).toEqual({ clips: 2, found: 1, faults: [] });
  expect(await unwatched()).toEqual([]);
  expect(await foundOf()).toEqual([[ids.get('T2'), 'black picture', 0, 75]]);
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
  expect(await unwatched()).toEqual(['T2', 'T3']);
});

test('recordings of sound are listened to: silence and clipping are ranges in parts of 25 a second; a short one is said', async () => {
  const tone = 'sine=f=440:r=48000';
  // Silent from 2 to 9 s; beyond full scale from 10 to 11 s.
  record(
    'S1.wav',
    `${tone}:d=12,volume='if(between(t,2,9),0,if(between(t,10,11),20,1))':eval=frame,asetnsamples=480,aformat=sample_fmts=s32`,
  );
  // Of two channels the second says nothing.
  record('S2.wav', `${tone}:d=4,pan=stereo|c0=c0|c1=0*c0`);
  record('S3.wav', `${tone}:d=4`);
  // One recording with a file for each track.
  record('T4_Tr1.wav', `${tone}:d=4`);
  record('T4_Tr2.wav', 'anullsrc=r=48000:cl=mono:d=4');
  await takeInCard(s);
  const ids = await idsByName();
  expect(await unwatched()).toEqual(['S1', 'S2', 'S3', 'T4']);
  truncateSync(at('S3.wav'), Math.round(statSync(at('S3.wav')).size / 2));
  const { faults, ...done } = await watch([...ids.values()]);
  expect(done).toEqual({ clips: 3, found: 3 });
  expect(faults).toEqual([expect.stringMatching(/^Of S3\.wav 2\.0 of 4\.0 seconds can be decoded\.$/)]);
  expect(await unwatched()).toEqual(['S3']);
  const found = await foundOf();
  for (const name of ['S2', 'T4'])
    expect(found.filter(([clip]) => clip === ids.get(name))).toEqual([
      [ids.get(name), 'no sound, channel 2', 0, 100],
    ]);
  const [silence, clipped, ...more] = found.filter(([clip]) => clip === ids.get('S1'));
  expect(more).toEqual([]);
  expect([silence![1], clipped![1]]).toEqual(['silence', 'clipped sound, channel 1']);
  const near = [silence![2], silence![3], clipped![2], clipped![3]].map((frame, i) =>
    Math.abs(Number(frame) - [50, 225, 250, 275][i]!),
  );
  expect(Math.max(...near)).toBeLessThanOrEqual(1);
  // No picture was looked at, and what the viewer draws was heard in the same run.
  expect(existsSync(cached(s.runtime, 'samples', ids.get('S1')!))).toBe(false);
  expect((await waveformOf(s.runtime, ids.get('S2')!))!.channels.map((c) => Math.max(...c) > 0)).toEqual([
    true,
    false,
  ]);
  expect(await watch([...ids.values()])).toEqual({ clips: 0, found: 0, faults: [expect.any(String)] });
});
