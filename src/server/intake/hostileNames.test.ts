import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, renameSync, statSync } from 'node:fs';
import path from 'node:path';
import { namingRequest } from '../../core/naming/shapes';
import { diskPath } from '../platform/files/names';
import { makeClip, testShelf, type TestShelf, TEST_JOB } from '../testing/media';
import { applyNaming, undoPlan } from '../naming';
import { clipFile } from '../cards/clipFiles';
import { factsOf } from './lookAtFile';
import { beginJob } from '../jobs/jobs';
import { look } from './look';
import { planNaming } from '../naming/naming';
import { takeIn } from './takeIn';
import { clipViews } from '../cards/clipViews';

// Reading, naming, proxies and the way back, with names that are no UTF-8, begin like options, hold quotes, line ends and pictures.

const NAMES = [
  Buffer.from('plain.MP4'),
  Buffer.concat([Buffer.from('caf'), Buffer.from([0xe9]), Buffer.from('.MP4')]),
  Buffer.from([0xff, 0xfe, 0x2e, 0x4d, 0x50, 0x34]),
  Buffer.from('-rf.MP4'),
  Buffer.from('it\'s "one".MP4'),
  Buffer.from('two\nlines.MP4'),
  Buffer.from('wheel \u{1f30a}.MP4'),
  Buffer.from('%s$(x)`y`.MP4'),
];

let s: TestShelf;
/** Contents by the bytes of the whole path. */
const tree = (folder: Buffer): string[] =>
  readdirSync(folder, { withFileTypes: true, encoding: 'buffer' })
    .flatMap((e) => {
      const at = Buffer.concat([folder, Buffer.from('/'), e.name]);
      if (e.isDirectory()) return e.name.toString() === '.sort-shelf' ? [] : tree(at);
      return [`${at.toString('hex')} ${createHash('sha256').update(readFileSync(at)).digest('hex')}`];
    })
    .sort();

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  mkdirSync(path.join(s.shelf, 'Card'));
  for (const [i, name] of NAMES.entries()) {
    const made = makeClip(path.join(s.dir, 'made.MP4'), {
      start: `1${i}:00:00:00`,
      created: `2026-05-05T1${i}:00:00Z`,
      frames: 6,
    });
    renameSync(made, Buffer.concat([Buffer.from(`${s.shelf}/Card/`), name]));
  }
});
afterAll(() => s.close());

test('every clip is seen, read, named, has a proven proxy, and goes back byte for byte', async () => {
  const before = tree(Buffer.from(s.shelf));
  const looked = await look(s.runtime, 'shelf', 'Card');
  expect(looked.cards[0]!.clips).toHaveLength(NAMES.length);
  for (const c of looked.cards[0]!.clips)
    expect(await factsOf(s.runtime, { root: 'shelf', path: `Card/${c.path}` })).toMatchObject({
      rate: { num: 25, den: 1 },
      fault: null,
    });
  await takeIn(s.runtime, {
    root: 'shelf',
    path: 'Card',
    cards: [{ folder: looked.cards[0]!.folder, camera: 'B', cardId: 'B001', day: 1, date: '2026-05-05' }],
  });
  await s.runtime.queue.drain();
  const clips = await clipViews(s.runtime, 'B001');
  expect(clips.map((c) => [c.state, c.frames, c.filmstrip])).toEqual(NAMES.map(() => ['read', 6, true]));
  for (const c of clips)
    expect(statSync(diskPath(await clipFile(s.runtime, c.id, 'original'))).size).toBe(c.bytes);

  await s.runtime.queue.add(
    'proxy',
    clips.map((c) => c.id),
  );
  await s.runtime.queue.drain();
  expect((await clipViews(s.runtime, 'B001')).map((c) => c.pair.state)).toEqual(NAMES.map(() => 'proven'));

  const request = namingRequest();
  const { preview } = await planNaming(s.runtime, request);
  expect(preview).toMatchObject({ clips: NAMES.length, stops: 0 });
  const { planId, failed } = await applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
  expect(failed).toEqual([]);
  const named = tree(Buffer.from(s.shelf)).map((l) => Buffer.from(l.split(' ')[0]!, 'hex').toString());
  expect(named.every((p) => /^[\x20-\x7e]+$/.test(p.slice(s.shelf.length)))).toBe(true);
  expect((await clipViews(s.runtime, 'B001')).every((c) => c.named)).toBe(true);
  expect((await undoPlan(s.runtime, planId)).failed).toEqual([]);
  expect(tree(Buffer.from(s.shelf))).toEqual(before);
});
