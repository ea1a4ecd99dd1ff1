import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { renameSync, truncateSync } from 'node:fs';
import path from 'node:path';
import { type MendRequest, RehearsalQuery } from '../../core/handover';
import { addWork, clipViews } from '../cards';
import { correctClips } from '../facts';
import { beginJob } from '../jobs';
import { hashTree, makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { mendClips, rehearsalView } from './rehearsal';

// What the edit holds and what the finishing side does, out of real files; and mending one from there.

let s: TestShelf;
const ids = new Map<string, string>();
const view = (query: object = {}) => rehearsalView(s.runtime, RehearsalQuery.parse(query));
const of = async (name: string) => (await view()).lines.find((l) => l.clip === ids.get(name))!;
const ways = async (name: string) => (await of(name)).ways.map((w) => w.result);
const mend = async (how: MendRequest['mend'], clips: string[] | null = null) => {
  const done = await mendClips(s.runtime, { mend: how, clips });
  await s.runtime.queue.drainKind('proxy');
  await s.runtime.queue.drainKind('prove');
  return done;
};

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const folder = path.join(s.shelf, 'In', 'B001');
  makeClip(path.join(folder, 'CLIP', 'T0001.MP4'), { start: '14:22:05:00', frames: 10 });
  makeClip(path.join(folder, 'SUB', 'T0001_px.MP4'), { start: '14:22:05:00', frames: 10, size: '320x180' });
  // Its timecode was lost in a rewrap.
  makeClip(path.join(folder, 'CLIP', 'T0002.MP4'), { start: '00:00:00:00', frames: 12 });
  const cut = makeClip(path.join(folder, 'CLIP', 'T0003.MP4'), { frames: 25 });
  truncateSync(cut, 3000);
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
});
afterAll(() => s.close());

test('what each side holds is what its file states; what cannot be read is counted, not tried', async () => {
  const { clips, unread, verdicts, found } = await view();
  expect({ clips, unread, verdicts, found }).toEqual({
    ...{ clips: 2, unread: 1, found: 2 },
    verdicts: { connects: 2, several: 0, fails: 0 },
  });
  expect(await of('T0001')).toMatchObject({
    ...{ card: 'B001', camera: 'B', verdict: 'connects' },
    edit: { what: 'cameraProxy', name: 'T0001_px.MP4', reel: null, frames: 10, rate: { num: 25, den: 1 } },
    original: { what: 'original', name: 'T0001.MP4', start: { frame: 1_293_125 } },
  });
  expect(await ways('T0001')).toEqual(['none', 'none', 'none', 'connects']);
  // Nothing stands beside it: the edit is given the original.
  expect(await of('T0002')).toMatchObject({ edit: { what: 'original' }, notes: [], mends: [] });
  expect(await ways('T0002')).toEqual(['connects', 'connects', 'none', 'connects']);
});

test('lines are asked for by verdict, by a way and how it goes, by part of a name, and page by page', async () => {
  const names = async (query: object) => (await view(query)).lines.map((l) => l.original.name);
  expect(await names({ verdict: 'fails' })).toEqual([]);
  expect(await names({ way: { way: 'name', result: 'none' } })).toEqual(['T0001.MP4']);
  expect(await names({ words: 't0002' })).toEqual(['T0002.MP4']);
  expect((await view({ offset: 1, limit: 1 })).lines).toHaveLength(1);
  expect((await view()).ways.find((w) => w.way === 'name')!.counts).toMatchObject({ connects: 1, none: 1 });
});

test('the timecode that was lost is given back from here, and the proxy made with it: then every way connects', async () => {
  const clip = ids.get('T0002')!;
  const before = hashTree(s.shelf);
  await addWork(s.runtime, 'proxy', [clip]);
  await s.runtime.queue.drainKind('proxy');
  expect(await of('T0002')).toMatchObject({
    edit: { what: 'proxy', start: { frame: 0 } },
    verdict: 'connects',
  });

  await correctClips(s.runtime, { clips: [clip], set: [{ field: 'start', value: '14:30:00:00' }] });
  expect(await of('T0002')).toMatchObject({
    mends: ['rewrap'],
    notes: ['The original says 00:00:00:00, though it was recorded from 14:30:00:00 on.'],
  });
  expect(await mend('rewrap')).toEqual({ begun: 1, refused: [] });
  expect(await of('T0002')).toMatchObject({
    ...{ verdict: 'fails', mends: ['again'] },
    original: { what: 'rewrap', name: 'T0002.mp4', start: { frame: 1_305_000 }, frames: 12 },
  });
  expect((await of('T0002')).ways[1]!.why).toBe(
    'the proxy starts at 00:00:00:00, the rewrap starts at 14:30:00:00',
  );

  // Not while its original is away: there would be no proxy at all.
  const original = path.join(s.shelf, 'In', 'B001', 'CLIP', 'T0002.MP4');
  renameSync(original, path.join(s.dir, 'away'));
  const proxies = hashTree(s.proxies);
  expect(await mend('again', [clip])).toEqual({
    begun: 0,
    refused: [
      {
        name: 'T0002.mp4',
        why: 'T0002.mp4 was kept, for it cannot be made again now: In/B001/CLIP/T0002.MP4 is no longer there.',
      },
    ],
  });
  expect(hashTree(s.proxies)).toEqual(proxies);
  renameSync(path.join(s.dir, 'away'), original);

  expect(await mend('again', [clip])).toEqual({ begun: 1, refused: [] });
  expect(await of('T0002')).toMatchObject({ verdict: 'connects', mends: [], notes: [] });
  expect(await ways('T0002')).toEqual(['connects', 'connects', 'connects', 'connects']);
  // Nothing that the camera made was written to.
  expect(hashTree(s.shelf)).toEqual(before);
  await expect(mend('again')).rejects.toThrow('There is nothing to be mended in this way any more.');
});
