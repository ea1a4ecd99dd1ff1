import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import { readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { type JobSettings } from '../../core/jobs/shapes';
import { RehearsalQuery } from '../../core/handover';
import { addWork, clipViews } from '../cards';
import { files } from '../cards/tables';
import { changeSettings, correctClips, setClock } from '../facts';
import { beginJob } from '../jobs';
import { watchPairs } from '../proxies';
import { pairs } from '../proxies/tables';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { rehearsalView } from './rehearsal';

// What is made of a clip, what proves it and what connects it go by the statement that the job believes, as lists show it.

let s: TestShelf;
const ids = new Map<string, string>();
const line = async (name: string) =>
  (await rehearsalView(s.runtime, RehearsalQuery.parse({}))).lines.find((l) => l.clip === ids.get(name))!;
const shown = async (name: string) => (await clipViews(s.runtime)).find((c) => c.original === name)!.start;
const believe = (trust: JobSettings['trust']) => changeSettings(s.runtime, { trust });

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const folder = path.join(s.shelf, 'In', 'B001', 'CLIP');
  makeClip(path.join(folder, 'T0001.MP4'), { start: '14:22:05:00', frames: 10 });
  makeClip(path.join(folder, 'T0002.MP4'), { start: '', frames: 12, created: '2026-05-06T14:40:00Z' });
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
});
afterAll(() => s.close());

test('a clock that was put right gives no timecode to a clip that states none', async () => {
  expect(await shown('T0002')).toBe('14:40:00:00');
  const before = await line('T0002');
  expect(before).toMatchObject({ verdict: 'connects', notes: [], mends: [] });
  await setClock(s.runtime, { camera: 'B', fromDay: 1, toDay: 1, seconds: 600, note: '' });
  expect(await shown('T0002')).toBe('14:50:00:00');
  expect(await line('T0002')).toEqual(before);
});

test('a proxy is given the start that the job believes, is proven by it, and connects by it', async () => {
  const clip = ids.get('T0001')!;
  await correctClips(s.runtime, { clips: [clip], set: [{ field: 'start', value: '10:00:00:00' }] });
  expect(await line('T0001')).toMatchObject({
    notes: ['The original says 14:22:05:00, though it was recorded from 10:00:00:00 on.'],
    mends: ['rewrap'],
  });
  // This job believes what the file says.
  await believe({ start: ['timecodeTrack', 'person'] });
  expect(await shown('T0001')).toBe('14:22:05:00');
  expect(await line('T0001')).toMatchObject({ notes: [], mends: [] });

  await addWork(s.runtime, 'proxy', [clip]);
  await s.runtime.queue.drainKind('proxy');
  const [pair] = await s.runtime.db.select().from(pairs).where(eq(pairs.clip, clip));
  expect(pair).toMatchObject({ state: 'proven' });
  expect(pair!.checks.find((c) => c.what === 'start')).toMatchObject({
    ...{ result: 'same', original: '14:22:05:00', proxy: '14:22:05:00' },
  });
  expect(await line('T0001')).toMatchObject({
    ...{ verdict: 'connects', notes: [], mends: [] },
    edit: { what: 'proxy', start: { frame: 1_293_125 } },
  });
  // Asked for again, it is proven the same way.
  await addWork(s.runtime, 'prove', [clip]);
  await s.runtime.queue.drainKind('prove');
  expect(await s.runtime.db.select({ state: pairs.state }).from(pairs).where(eq(pairs.clip, clip))).toEqual([
    { state: 'proven' },
  ]);
});

test('a proxy is of the reel that it was given, whatever is said of its clip later', async () => {
  const clip = ids.get('T0001')!;
  const way = async () => (await line('T0001')).ways.find((w) => w.way === 'reel');
  const reelOf = async () => (await line('T0001')).edit.reel;
  // Its name says none, and so the card's is taken.
  expect(await reelOf()).toBe('B001');
  await correctClips(s.runtime, { clips: [clip], set: [{ field: 'reel', value: 'B002' }] });
  expect([await reelOf(), (await way())!.result]).toEqual(['B001', 'none']);
  // What was proven before that was kept is read once, and says none until then.
  const [pair] = await s.runtime.db.select().from(pairs).where(eq(pairs.clip, clip));
  const before = pair!.checks.map(({ reel: _, ...c }) => c);
  await s.runtime.db.update(pairs).set({ checks: before }).where(eq(pairs.clip, clip));
  s.runtime.events.changed('clips');
  expect(await reelOf()).toBeNull();
  // One that cannot be read in that moment is not said to have none.
  const { file } = pair!;
  const [made] = await s.runtime.db.select().from(files).where(eq(files.id, file));
  const at = path.join(s.proxies, made!.path);
  const [bytes, { atime, mtime }] = [readFileSync(at), statSync(at)];
  const write = (b: Buffer) => (writeFileSync(at, b), utimesSync(at, atime, mtime));
  write(Buffer.alloc(bytes.length));
  await watchPairs(s.runtime);
  const [still] = await s.runtime.db.select().from(pairs).where(eq(pairs.clip, clip));
  expect(still!.checks).toEqual(before);
  write(bytes);
  await watchPairs(s.runtime);
  expect(await reelOf()).toBe('B001');
  const [after] = await s.runtime.db.select().from(pairs).where(eq(pairs.clip, clip));
  expect(after).toEqual(pair);
});

test('a timecode that is typed is read at the rate that the job believes', async () => {
  const clip = ids.get('T0002')!;
  const say = (field: 'rate' | 'start', value: string) =>
    correctClips(s.runtime, { clips: [clip], set: [{ field, value }] });
  await say('rate', '50');
  await say('start', '10:00:00:30');
  await believe({ rate: ['container', 'person'] });
  await expect(say('start', '10:00:00:31')).rejects.toThrow('“10:00:00:31” is not a valid start timecode');
  await say('start', '10:00:00:24');
  expect(await shown('T0002')).toBe('10:00:00:24');
});
