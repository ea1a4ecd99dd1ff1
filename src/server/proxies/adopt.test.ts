import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { copyFileSync, existsSync, mkdirSync, truncateSync } from 'node:fs';
import path from 'node:path';
import { namingRequest } from '../../core/naming/shapes';
import { look } from '../intake/look';
import { takeIn } from '../intake/takeIn';
import { beginJob } from '../jobs/jobs';
import { applyNaming, undoPlan } from '../naming';
import { planNaming } from '../naming/naming';
import { plans } from '../naming/tables';
import { addRoot } from '../places/roots';
import { hashTree, makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { actOnPair } from './actOnPair';
import { adopt, lookForProxies } from './adopt';
import { provePairs } from './provePairs';
import { proxiesView } from './views';

// Proxies that were made elsewhere, from the folder they are found in to their clips' names.

let s: TestShelf;
let uploads: string;
const lines = async () => (await proxiesView(s.runtime)).pairs.filter((p) => p.adopted);
const clipOf = async (name: string) =>
  (await proxiesView(s.runtime)).clips.find((c) => String(c.name) === name)!.clip;
const small = { scaledTo: '160:90' };

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  for (const [name, frames, start] of [
    ['T0001', 10, '10:00:00:00'],
    ['T0002', 12, '10:01:00:00'],
    ['T0003', 14, '10:02:00:00'],
    ['T0004', 16, '10:03:00:00'],
  ] as const)
    makeClip(path.join(s.shelf, 'In', `${name}.MP4`), { frames, start });
  await takeInCard(s);
  const at = path.join(s.dir, 'uploads');
  mkdirSync(at);
  makeClip(path.join(at, 'up-T0001.mov.mp4'), { ...small, frames: 10, start: '10:00:00:00' });
  makeClip(path.join(at, 'up-T0002.mp4'), { ...small, frames: 12, start: '10:01:00:00' });
  makeClip(path.join(at, 'wheel.mp4'), { ...small, frames: 14, start: '10:02:00:00' });
  makeClip(path.join(at, 'up-T0004.mp4'), { ...small, frames: 15, start: '10:03:00:00' });
  mkdirSync(path.join(at, 'again'));
  copyFileSync(path.join(s.shelf, 'In/T0001.MP4'), path.join(at, 'again/T0001.MP4'));
  copyFileSync(path.join(s.shelf, 'In/T0004.MP4'), path.join(at, 'again/another name.mp4'));
  put(path.join(at, 'broken.mp4'), 'no video');
  makeClip(path.join(at, 'else.mp4'), { ...small, frames: 30, start: '20:00:00:00' });
  uploads = (await addRoot(s.runtime, { kind: 'source', path: at })).id;
});
afterAll(() => s.close());

describe('proxies of elsewhere', () => {
  test('are found with whose they are and by what; what is nobody’s is said, and nothing is changed', async () => {
    const before = [hashTree(s.shelf), hashTree(path.join(s.dir, 'uploads'))];
    const view = await lookForProxies(s.runtime, { root: uploads, path: '' });
    expect(view.looked).toBe(8);
    expect(view.rules).toEqual([{ prefix: 'up-', suffix: '' }]);
    expect(view.pairs.map((p) => [p.file.path, p.of.name, p.by])).toEqual([
      ['up-T0001.mov.mp4', 'T0001', 'rule'],
      ['up-T0002.mp4', 'T0002', 'rule'],
      ['wheel.mp4', 'T0003', 'timecode'],
    ]);
    expect(view.open).toEqual([]);
    expect(view.none.map((n) => [n.file.path, n.because])).toEqual([
      ['up-T0004.mp4', 'it has the name of T0004, and another length, rate or timecode'],
      ['else.mp4', 'no clip of the job has this name, timecode or pictures'],
      ['broken.mp4', expect.stringContaining('broken.mp4')],
      ['again/T0001.MP4', 'it is as large as the original: a copy of it'],
      ['again/another name.mp4', 'it is as large as the original: a copy of it'],
    ]);
    expect([hashTree(s.shelf), hashTree(path.join(s.dir, 'uploads'))]).toEqual(before);
  });

  test('are adopted where they are, and proven; one that does not match says why', async () => {
    const { pairs } = await lookForProxies(s.runtime, { root: uploads, path: '' });
    const wanted = pairs.map((p) => ({ path: p.file.path, clip: p.of.clip }));
    wanted.push({ path: 'up-T0004.mp4', clip: await clipOf('T0004') });
    expect(await adopt(s.runtime, { root: uploads, pairs: wanted })).toEqual({ adopted: 4 });
    // Their figures are compared at once, their pictures soon.
    expect((await lines()).map((l) => l.state)).toEqual(['unproven', 'unproven', 'unproven', 'mismatched']);
    expect((await lines())[0]!.reason).toBe('pictures: original not looked at yet, proxy not looked at yet');
    await s.runtime.queue.drainKind('prove');
    expect((await lines()).map((l) => [l.name, l.what, l.state])).toEqual([
      ['T0001', 'adopted file', 'proven'],
      ['T0002', 'adopted file', 'proven'],
      ['T0003', 'adopted file', 'proven'],
      ['T0004', 'adopted file', 'mismatched'],
    ]);
    // What is adopted is not found again, and not adopted twice.
    expect((await lookForProxies(s.runtime, { root: uploads, path: '' })).looked).toBe(4);
    await expect(adopt(s.runtime, { root: uploads, pairs: wanted.slice(0, 1) })).rejects.toThrow(
      'is a file of a clip already',
    );
    await expect(
      adopt(s.runtime, { root: uploads, pairs: [{ path: '../In/T0001.MP4', clip: wanted[0]!.clip }] }),
    ).rejects.toThrow('leads out of');
    const clip = wanted[0]!.clip;
    await expect(adopt(s.runtime, { root: uploads, pairs: [{ path: 'again', clip }] })).rejects.toThrow(
      'not a regular file',
    );
    const safe = path.join(s.dir, 'copies');
    mkdirSync(safe);
    const { id } = await addRoot(s.runtime, { kind: 'safe', path: safe });
    await expect(lookForProxies(s.runtime, { root: id, path: '' })).rejects.toThrow('holds safe copies');
  });

  test('one is taken apart, and stays on the disk; none is removed', async () => {
    const line = (await lines()).find((l) => String(l.name) === 'T0004')!;
    await expect(actOnPair(s.runtime, { action: 'remove', file: line.file! })).rejects.toThrow(
      'was not made here',
    );
    await actOnPair(s.runtime, { action: 'apart', file: line.file! });
    expect((await lines()).map((l) => String(l.name))).toEqual(['T0001', 'T0002', 'T0003']);
    expect(existsSync(path.join(s.dir, 'uploads', 'up-T0004.mp4'))).toBe(true);
  });

  test('one that is spoilt is found when it is proven again', async () => {
    const file = path.join(s.dir, 'uploads', 'up-T0002.mp4');
    const whole = path.join(s.dir, 'whole.mp4');
    copyFileSync(file, whole);
    truncateSync(file, 3000);
    await provePairs(s.runtime, [await clipOf('T0002')]);
    expect((await lines()).find((l) => String(l.name) === 'T0002')).toMatchObject({ state: 'mismatched' });
    copyFileSync(whole, file);
    await provePairs(s.runtime, [await clipOf('T0002')]);
    expect((await lines()).find((l) => String(l.name) === 'T0002')).toMatchObject({ state: 'proven' });
  });

  test('another picture of the same length, rate, timecode and sound is found, too', async () => {
    const file = path.join(s.dir, 'uploads', 'up-T0002.mp4');
    const whole = path.join(s.dir, 'whole.mp4');
    makeClip(file, { size: '160x90', frames: 12, start: '10:01:00:00' });
    await provePairs(s.runtime, [await clipOf('T0002')]);
    const { state, checks } = (await lines()).find((l) => String(l.name) === 'T0002')!;
    expect(state).toBe('mismatched');
    expect(checks.filter((c) => c.result !== 'same').map((c) => c.what)).toEqual(['pictures']);
    copyFileSync(whole, file);
    await provePairs(s.runtime, [await clipOf('T0002')]);
    expect((await lines()).find((l) => String(l.name) === 'T0002')).toMatchObject({ state: 'proven' });
  });

  test('naming brings them to the proxies under their originals’ names, and leaves those of a root that is only read', async () => {
    // Written anew by the test before: it is another file by its time, which naming refuses.
    const spoilt = (await lines()).find((l) => String(l.name) === 'T0002')!;
    await actOnPair(s.runtime, { action: 'apart', file: spoilt.file! });
    const { preview } = await planNaming(s.runtime, namingRequest());
    await applyNaming(s.runtime, { ...namingRequest(), fingerprint: preview.fingerprint });
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'SLW/D1/B/B001/SLW_D1_B001_001_25p.mp4',
      'SLW/D1/B/B001/SLW_D1_B001_003_25p.mp4',
    ]);
    expect(existsSync(path.join(s.dir, 'uploads', 'wheel.mp4'))).toBe(true);
    await provePairs(
      s.runtime,
      (await lines()).map((l) => l.clip),
    );
    expect((await lines()).map((l) => l.state)).toEqual(['proven', 'proven']);
  });

  test('what was adopted after its clip was named stays where it is when that is taken back', async () => {
    const [plan] = await s.runtime.db.select().from(plans);
    const clip = await clipOf('SLW_D1_B001_002_25p');
    const before = hashTree(path.join(s.dir, 'uploads'));
    await adopt(s.runtime, { root: uploads, pairs: [{ path: 'up-T0002.mp4', clip }] });
    expect(await undoPlan(s.runtime, plan!.id)).toMatchObject({ state: 'done' });
    expect(hashTree(path.join(s.dir, 'uploads'))).toEqual(before);
    expect(hashTree(s.proxies)).toEqual({});
  });
});

describe('what names and timecode leave open', () => {
  let shelf: TestShelf;
  let root: string;
  const at = (...p: string[]) => path.join(shelf.dir, 'others', ...p);
  beforeAll(async () => {
    shelf = await testShelf();
    await beginJob(shelf.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    // Clips of one length without timecode: two with pictures of their own, two that show the same.
    const coded = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'];
    const codings: Record<string, string[]> = {
      first: ['-vf', 'scale=320:180', ...coded],
      second: ['-vf', 'hflip,scale=320:180', ...coded],
      third: ['-vf', 'vflip,scale=320:180', ...coded],
      stranger: ['-vf', 'hflip,vflip,scale=320:180', ...coded],
    };
    const clip = (file: string, coding: string, created: string, small: boolean) =>
      makeClip(file, {
        ...{ frames: 12, start: null, created: `2026-05-06T${created}:00Z` },
        codec: codings[coding]!.map((a) => (small ? a.replace('320:180', '160:90') : a)),
      });
    for (const [name, coding, created] of [
      ['T0001', 'first', '14:00'],
      ['T0002', 'second', '14:10'],
      ['T0003', 'third', '14:20'],
      ['T0004', 'third', '14:30'],
    ] as const)
      clip(path.join(shelf.shelf, 'In', `${name}.MP4`), coding, created, false);
    const found = await look(shelf.runtime, 'shelf', 'In');
    await takeIn(shelf.runtime, {
      root: 'shelf',
      path: 'In',
      cards: [{ folder: found.cards[0]!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
    });
    await shelf.runtime.queue.drain();
    mkdirSync(at());
    for (const coding of Object.keys(codings)) clip(at(`${coding}.mp4`), coding, '15:00', true);
    clip(at('third again.mp4'), 'third', '15:10', true);
    root = (await addRoot(shelf.runtime, { kind: 'source', path: at() })).id;
  });
  afterAll(() => shelf.close());

  test('is decided by pictures where one clip has them; where several have, by a person', async () => {
    const view = await lookForProxies(shelf.runtime, { root, path: '' });
    expect(view.pairs.map((p) => [p.file.path, String(p.of.name), p.by]).sort()).toEqual([
      ['first.mp4', 'T0001', 'pictures'],
      ['second.mp4', 'T0002', 'pictures'],
    ]);
    expect(
      view.open.map((o) => [o.files.map((f) => f.path).sort(), o.of.map((c) => String(c.name))]),
    ).toEqual([
      [
        ['third again.mp4', 'third.mp4'],
        ['T0003', 'T0004'],
      ],
    ]);
    expect(view.none.map((n) => [n.file.path, n.because])).toEqual([
      ['stranger.mp4', 'no clip of the job has this name, timecode or pictures'],
    ]);
  });
});
