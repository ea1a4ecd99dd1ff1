import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { mkdirSync, realpathSync } from 'node:fs';
import path from 'node:path';
import { recogniseFolder } from '../cards';
import { keepCard, offered } from '../custody';
import { beginJob } from '../jobs/jobs';
import { addRoot } from '../places';
import { makeClip, put, TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { glance } from './glance';

let s: TestShelf;
let card: string;
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  mkdirSync(path.join(s.dir, 'card'));
  card = realpathSync(path.join(s.dir, 'card'));
  for (const n of ['0001', '0002', '0003'])
    makeClip(path.join(card, 'DCIM', '100WHIMB', `WHIM${n}.MP4`), { audio: [], frames: Number(n) + 4 });
});
afterAll(() => s.close());

test('a card says what it looks like before it is a place', async () => {
  expect(await glance(s.runtime, card)).toEqual({
    shapes: ['DCIM folders (DCF)'],
    cards: 1,
    clips: 3,
    fresh: null,
    known: null,
    whole: true,
  });
  mkdirSync(path.join(s.dir, 'empty'));
  expect(await glance(s.runtime, path.join(s.dir, 'empty'))).toMatchObject({ clips: 0, shapes: [] });
  await expect(glance(s.runtime, '/home')).rejects.toThrow(/holds all volumes at once/);
  await expect(glance(s.runtime, '/etc')).rejects.toThrow(/a folder of the system/);
  await expect(glance(s.runtime, path.join(s.dir, 'gone'))).rejects.toThrow(/There is no folder/);
});

test('of a known card it says how many clips are new', async () => {
  const { id } = await addRoot(s.runtime, { kind: 'source', path: card });
  await keepCard(
    s.runtime.db,
    await offered(s.runtime, await recogniseFolder(s.runtime, id, ''), ''),
    'D001',
    null,
  );
  expect(await glance(s.runtime, card)).toMatchObject({ clips: 3, fresh: 0, known: 'D001' });
  for (const n of ['0004', '0005'])
    makeClip(path.join(card, 'DCIM', '100WHIMB', `WHIM${n}.MP4`), { audio: [], frames: Number(n) + 4 });
  put(path.join(card, 'DCIM', '100WHIMB', 'WHIM0005.THM'), 'thumbnail');
  expect(await glance(s.runtime, card)).toMatchObject({ clips: 5, fresh: 2, known: 'D001' });
});
