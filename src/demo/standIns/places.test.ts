import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { cpSync, mkdirSync, mkdtempSync, readdirSync, realpathSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { namingRequest } from '../../core/naming/shapes';
import { clipViews } from '../../server/cards/clipViews';
import { correctClips } from '../../server/facts/correct';
import { forgetCard } from '../../server/intake/takeIn';
import { applyNaming, undoPlan } from '../../server/naming';
import { planNaming } from '../../server/naming/naming';
import { clipDetail } from '../../server/overview/clipDetail';
import { wipeView } from '../../server/custody/wipe';
import { settleMounts } from '../../server/places/mounts';
import { listRoots, movePlace } from '../../server/places';
import { checkAgain } from '../../server/custody';
import { alone } from '../../server/platform/work/context';
import { addRoot, changeRoot } from '../../server/places/roots';
import { takeIn } from '../../server/intake/takeIn';
import { makeClip, put, TEST_JOB } from '../../server/testing/media';
import { type CopyingShelf, copyingShelf } from './copyingShelf';
import path from 'node:path';

// Where files are, were, and were taken from, as copying, naming and cards that come again lead them.

let r: CopyingShelf;
beforeAll(async () => {
  r = await copyingShelf();
});
afterAll(() => r.shelf.close());

/** The places of a clip's original in words: those it is at, then those it was at. */
const places = async (clip: string): Promise<string[]> =>
  (await clipDetail(r.shelf.runtime, clip)).places.map(
    (p) => `${p.what} ${p.name} ${p.path}${p.until === null ? '' : ' (gone)'}`,
  );
const rename = async (card: string) => {
  const request = namingRequest({ cards: [card] });
  const { preview } = await planNaming(r.shelf.runtime, request);
  expect(preview.stops).toBe(0);
  return applyNaming(r.shelf.runtime, { ...request, fingerprint: preview.fingerprint });
};

test('a clip stands on its card, in its safe copies, and on the shelf under each of its names in turn', async () => {
  const { runtime } = r.shelf;
  const id = r.card({});
  makeClip(r.reader(id, 'CLIP/T0001.MP4'), { frames: 5 });
  put(r.reader(id, 'CLIP/T0001.XML'), '<C/>');
  const offload = await r.begin(id, { shelf: true });
  const [clip] = await clipViews(runtime, id);
  expect(await places(clip!.id)).toEqual([`card ${id} CLIP/T0001.MP4`]);
  while ((await r.view(offload)).state !== 'done') {
    await runtime.queue.drain();
    await new Promise((next) => setTimeout(next, 20));
  }
  const [named] = await clipViews(runtime, id);
  const at = (name: string) => `place Shelf SLW/Day_01/${id}/${name}.MP4`;
  const standing = [
    `card ${id} CLIP/T0001.MP4`,
    `copy North SLW/Day 1/${id}/CLIP/T0001.MP4`,
    `copy South SLW/Day 1/${id}/CLIP/T0001.MP4`,
  ];
  const now = await places(clip!.id);
  const shelf = now.find((p) => p.startsWith('place') && !p.endsWith('(gone)'))!;
  expect(shelf).toContain(named!.name);
  expect([...now].sort()).toEqual(
    [...standing, shelf, `place Shelf Incoming/${id}/CLIP/T0001.MP4 (gone)`].sort(),
  );
  expect(at('')).toContain('Shelf');
  // Another name, and back to the one before.
  await correctClips(runtime, { clips: [clip!.id], set: [{ field: 'rate', value: '50' }] });
  const again = await rename(id);
  expect(again.state).toBe('done');
  const renamed = await places(clip!.id);
  expect(renamed).toContain(`${shelf} (gone)`);
  expect(renamed.filter((p) => !p.endsWith('(gone)')).length).toBe(4);
  await undoPlan(runtime, again.planId);
  const back = await places(clip!.id);
  expect(back.filter((p) => p === shelf).length).toBe(1);
  // It was there before, which is not forgotten.
  expect(back.filter((p) => p === `${shelf} (gone)`).length).toBe(1);
});

test('a card that comes again without a file does not hold it any more; what was copied stands', async () => {
  const { runtime } = r.shelf;
  const id = r.card({ 'CLIP/T0001.MP4': 50_000, 'CLIP/T0002.MP4': 60_000 });
  await r.copy(id, { safe: [r.roots.North!] });
  const [clip] = await clipViews(runtime, id);
  expect((await places(clip!.id)).sort()).toEqual([
    `card ${id} CLIP/T0001.MP4`,
    `copy North SLW/Day 1/${id}/CLIP/T0001.MP4`,
  ]);
  rmSync(r.reader(id, 'CLIP/T0001.MP4'));
  // To another drive: the file that is left is copied there.
  await r.copy(id, { safe: [r.roots.South!] });
  expect((await places(clip!.id)).sort()).toEqual([
    `card ${id} CLIP/T0001.MP4 (gone)`,
    `copy North SLW/Day 1/${id}/CLIP/T0001.MP4`,
  ]);
  const other = (await clipViews(runtime, id)).find((c) => c.original === 'T0002')!;
  expect((await places(other.id)).sort()).toEqual([
    `card ${id} CLIP/T0002.MP4`,
    `copy North SLW/Day 1/${id}/CLIP/T0002.MP4`,
    `copy South SLW/Day 1/${id}/CLIP/T0002.MP4`,
  ]);
  await forgetCard(runtime, id);
});

test('what is named by copying out of a source stands there as well; taken back, it stands there alone', async () => {
  const { runtime, dir } = r.shelf;
  const folder = path.join(dir, 'in place');
  makeClip(path.join(folder, 'K001/CLIP/T0001.MP4'), { frames: 4 });
  const root = await addRoot(runtime, { kind: 'source', path: folder });
  await takeIn(runtime, {
    root: root.id,
    path: '',
    cards: [{ folder: 'K001', camera: 'K', cardId: 'K001', day: 7, date: null }],
  });
  await runtime.queue.drain();
  const [clip] = await clipViews(runtime, 'K001');
  const source = `place ${root.name} K001/CLIP/T0001.MP4`;
  expect(await places(clip!.id)).toEqual([source]);
  const plan = await rename('K001');
  const copied = await places(clip!.id);
  expect(copied.length).toBe(2);
  expect(copied).toContain(source);
  await undoPlan(runtime, plan.planId);
  const back = await places(clip!.id);
  expect(back.filter((p) => !p.endsWith('(gone)'))).toEqual([source]);
  expect(back.filter((p) => p.endsWith('(gone)')).length).toBe(1);
  expect(runtime.job).toBe(TEST_JOB);
});

test('a drive that comes back at another place is copied to there, and its copies count; another drive at its place is not it', async () => {
  const { runtime } = r.shelf;
  const first = r.card({ 'CLIP/T0001.MP4': 40_000 });
  await r.copy(first);
  expect((await wipeView(runtime, first)).verdict).toBe('yes');
  // Another drive is where North was.
  renameSync(r.drive('North'), r.drive('North 1'));
  mkdirSync(r.drive('North'));
  r.tell('North', { volume: 'Harbour', disk: 'Harbour' });
  await settleMounts(runtime);
  const second = r.card({ 'CLIP/T0001.MP4': 41_000 });
  await expect(r.begin(second)).rejects.toThrow(/^The folder of “North” is not there: [^]*drives\/North$/);
  expect(readdirSync(r.drive('North'))).toEqual([]);
  expect((await wipeView(runtime, first)).verdict).not.toBe('yes');
  // A clone of North, on another disk, is found by the volume's name: nobody has read it.
  r.tell('North 1', { volume: 'North', disk: 'Clone' });
  await settleMounts(runtime);
  expect((await wipeView(runtime, first)).copies.find((c) => c.rootName === 'North')).toMatchObject({
    present: true,
    sameDisk: false,
  });
  expect((await wipeView(runtime, first)).verdict).not.toBe('yes');
  // North itself is mounted beside it.
  r.tell('North 1', { volume: 'North', disk: 'North' });
  await settleMounts(runtime);
  expect((await wipeView(runtime, first)).verdict).toBe('yes');
  expect((await r.copy(second)).state).toBe('done');
  expect(readdirSync(r.drive('North'))).toEqual([]);
  expect(readdirSync(r.drive('North 1', 'SLW/Day 1', second, 'CLIP'))).toEqual(['T0001.MP4']);
  expect((await wipeView(runtime, second)).verdict).toBe('yes');
});

test('a place that a person says is another folder: the copies in it are not proven until they were read there', async () => {
  const { runtime } = r.shelf;
  const id = r.card({ 'CLIP/T0001.MP4': 50_000, 'CLIP/T0002.MP4': 60_000 });
  await r.begin(id);
  await runtime.queue.idle('copy');
  expect((await wipeView(runtime, id)).verdict).toBe('yes');
  // Copied by hand, on the same drive, with every size and time as it was.
  const moved = r.drive('South', 'Moved');
  mkdirSync(moved);
  for (const n of readdirSync(r.drive('South')).filter((x) => x !== 'Moved'))
    cpSync(r.drive('South', n), path.join(moved, n), { recursive: true, preserveTimestamps: true });
  const south = (await listRoots(runtime)).find((x) => x.name === 'South')!;
  await changeRoot(runtime, south.id, { path: moved });
  expect((await wipeView(runtime, id)).verdict).not.toBe('yes');
  const copy = (await wipeView(runtime, id)).copies.find((c) => c.place.startsWith(moved))!;
  expect(copy).toMatchObject({ present: true, proven: 0, sizeOnly: 2 });
  await changeRoot(runtime, south.id, { path: r.drive('South') });
  rmSync(moved, { recursive: true });
  expect((await wipeView(runtime, id)).verdict).not.toBe('yes');
});

describe('a place of safe copies that comes to another volume: they are looked for there, and count once they were read', () => {
  const elsewhere: string[] = [];
  afterAll(() => elsewhere.forEach((folder) => rmSync(folder, { recursive: true, force: true })));
  const folder = (): string => {
    const at = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-moved-')));
    elsewhere.push(at);
    return at;
  };
  const south = async () => (await listRoots(r.shelf.runtime)).find((x) => x.name === 'South')!;
  const copyOf = async (id: string, at: string) =>
    (await wipeView(r.shelf.runtime, id)).copies.find((c) => c.place.startsWith(at));
  const counts = async (id: string, at: string) => {
    expect(await copyOf(id, at)).toMatchObject({ present: true, proven: 0, sizeOnly: 2 });
    await checkAgain(r.shelf.runtime, (await copyOf(id, at))!.id);
    expect(await copyOf(id, at)).toMatchObject({ present: true, sameDisk: true, proven: 2, sizeOnly: 0 });
  };

  test('moved by hand, and by a plan', async () => {
    const { runtime } = r.shelf;
    const id = r.card({ 'CLIP/T0001.MP4': 50_000, 'CLIP/T0002.MP4': 60_000 });
    await r.copy(id);
    const byHand = folder();
    cpSync(r.drive('South'), byHand, { recursive: true, preserveTimestamps: true });
    await changeRoot(runtime, (await south()).id, { path: byHand });
    await counts(id, byHand);
    const to = r.drive('Third');
    mkdirSync(to);
    const { left } = await movePlace(runtime, (await south()).id, to, {
      ...alone(),
      id: 'me',
      subject: '',
      wanted: null,
      attempt: 1,
      signal: new AbortController().signal,
    });
    expect(left).toBe(byHand);
    await counts(id, to);
  });
});
