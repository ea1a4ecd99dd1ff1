import { afterAll, afterEach, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import { checkAgain, checkAnyFolder } from '../../server/custody';
import { wipeView } from '../../server/custody/wipe';
import { writeLog } from '../../server/logbook';
import { recoverPlans } from '../../server/naming';
import { doStep, rootsNow } from '../../server/naming/doStep';
import { skeleton } from '../../server/naming/skeleton';
import { plans, steps } from '../../server/naming/tables';
import { actOnOffload } from '../../server/offload/act';
import { copying } from '../../server/offload/copyCard';
import { offloadDetail } from '../../server/offload/views';
import { addRoot } from '../../server/places';
import { alone, type TaskContext } from '../../server/platform/work/context';
import { put } from '../../server/testing/media';
import { mayMount, RealMounts } from '../../server/testing/realMounts';
import { addGeneration } from '../../server/transfer/hashList';
import { type CopyingShelf, copyingShelf, footage, SLOW, until } from './copyingShelf';

// Drives that are pulled while they are written to or read. The folder each was mounted at stays, on the system's own volume.

let r: CopyingShelf;
let east: string;
let image: string;
let root: string;
const drives = new RealMounts();
const OFFLINE = 'east is offline. Connect it: the copy continues by itself. Or continue without it.';
const runtime = () => r.shelf.runtime;
/** As when the cable is pulled: whoever has files open on it keeps them. */
const pull = (): void => drives.unmount(east, true);
const plugIn = (): string => drives.mount('east', image);

beforeAll(async () => {
  r = await copyingShelf({ kept: true });
  if (!mayMount) return;
  image = drives.image('east', 'EAST', 200);
  east = plugIn();
  root = (await addRoot(runtime(), { kind: 'safe', path: east })).id;
});
afterEach(() => r.calm());
afterAll(async () => {
  await r.shelf.close();
  drives.end();
});

(mayMount ? describe : describe.skip)('a drive that is pulled, and leaves its folder', () => {
  let id: string;
  const folder = () => path.join('SLW/Day 1', id);

  test('while a card is copied to it: nothing goes to the folder, and resumed the rest goes to the drive', async () => {
    const clips = Array.from({ length: 6 }, (_, n) => [`CLIP/T000${n}.MP4`, 4_000_000] as const);
    id = r.card(Object.fromEntries([...clips, ['CARD.IDX', 10]]));
    r.tell('Reader 1', SLOW);
    const offload = await r.begin(id, { safe: [r.roots.North!, root] });
    await until(async () => (await r.view(offload)).verified >= 2);
    pull();
    r.calm();
    await runtime().queue.idle('copy');
    expect(await r.view(offload)).toMatchObject({ state: 'waiting', fault: OFFLINE });
    expect((await r.view(offload)).verified).toBeLessThan(7);
    expect(readdirSync(east)).toEqual([]);
    // As long as it is away, nothing goes there either.
    await actOnOffload(runtime(), offload, { action: 'resume' });
    await runtime().queue.idle('copy');
    const detail = await offloadDetail(runtime(), offload);
    expect(detail).toMatchObject({ state: 'waiting', fault: OFFLINE });
    expect(detail.destinations.map((d) => [d.rootName, d.away])).toEqual([
      ['North', false],
      ['east', true],
    ]);
    expect(readdirSync(east)).toEqual([]);
    plugIn();
    await until(async () => (await r.view(offload)).state === 'done');
    expect(await r.view(offload)).toMatchObject({ verified: 7, failed: 0, fault: null });
    execFileSync('diff', ['-r', '--exclude=ascmhl', r.reader(id), path.join(east, folder())]);
    expect((await wipeView(runtime(), id)).copies.map((c) => [c.rootName, c.proven])).toEqual([
      ['North', 7],
      ['east', 7],
    ]);
  });

  test('before a copy to it is begun: it is said to be offline, and nothing is begun', async () => {
    const other = r.card({ 'CLIP/T0001.MP4': 5000 });
    pull();
    await expect(r.begin(other, { safe: [r.roots.North!, root] })).rejects.toMatchObject({
      message: '“east” is offline.',
    });
    plugIn();
  });

  test('when all was copied and its hash list is not written yet: no list goes to the folder', async () => {
    const other = r.card({ 'CLIP/T0001.MP4': 5000 });
    const { events } = runtime();
    const changed = events.changed.bind(events);
    // What was copied is the clips' and the cards' once all of it is there; the list is written next.
    const spy = jest.spyOn(events, 'changed').mockImplementation((...what) => {
      if (what.includes('cards') && existsSync(path.join(east, 'SLW/Day 1', other, 'CLIP/T0001.MP4'))) pull();
      changed(...what);
    });
    const offload = await r.begin(other, { safe: [r.roots.North!, root] });
    await runtime().queue.idle('copy');
    spy.mockRestore();
    expect(await r.view(offload)).toMatchObject({ state: 'waiting', verified: 1, fault: OFFLINE });
    expect(readdirSync(east)).toEqual([]);
    plugIn();
    await until(async () => (await r.view(offload)).state === 'done');
    expect(await r.view(offload)).toMatchObject({ verified: 1, fault: null });
    expect(readdirSync(path.join(east, 'SLW/Day 1', other)).sort()).toEqual(['CLIP', 'ascmhl']);
    // The folder of a copy that is not there is not made for a list.
    const gone = path.join(east, 'gone');
    const list = {
      process: 'in-place',
      kind: 'xxh128',
      entries: [],
      emptyFolders: [],
      version: '1',
    } as const;
    await expect(addGeneration(gone, list)).rejects.toMatchObject({ code: 'ENOENT' });
    expect(existsSync(gone)).toBe(false);
  });

  test('and comes back as another drive, or not at all: the copy does not go on to it, but without it', async () => {
    const other = r.card({
      'CLIP/T0001.MP4': 4_000_000,
      'CLIP/T0002.MP4': 4_000_000,
      'CLIP/T0003.MP4': 5000,
    });
    r.tell('Reader 1', SLOW);
    const offload = await r.begin(other, { safe: [r.roots.North!, root] });
    await until(async () => (await r.view(offload)).verified >= 1);
    pull();
    r.calm();
    await runtime().queue.idle('copy');
    expect((await r.view(offload)).state).toBe('waiting');
    const kind = copying(() => Promise.resolve({ fault: null }));
    // Another one where it was mounted may be it, by all that is known here: nobody is asked, so nothing goes there.
    drives.mount('east', drives.image('twin', 'TWIN', 200));
    expect(await kind.mayGoOn!(runtime(), offload)).toBe(false);
    drives.unmount(east);
    expect(await kind.mayGoOn!(runtime(), offload)).toBe(false);
    await actOnOffload(runtime(), offload, { action: 'drop', destination: 1 });
    await runtime().queue.idle('copy');
    expect(await r.view(offload)).toMatchObject({ state: 'done', verified: 3, failed: 0 });
    expect(readdirSync(east)).toEqual([]);
    plugIn();
  });

  test('while its copy is checked: it does not count, nothing is missing, and no list goes to the folder', async () => {
    const copy = (await wipeView(runtime(), id)).copies.find((c) => c.rootName === 'east')!;
    /** A check in the way of which the drive is pulled as its reading begins. */
    const pulling = (): TaskContext => {
      const task = alone();
      return Object.defineProperty({ ...task }, 'gate', { get: () => (pull(), task.gate) });
    };
    const taken = {
      title: 'Interrupted',
      message: 'east was taken away while it was read: it does not count.',
    };
    await expect(checkAgain(runtime(), copy.id, pulling())).rejects.toMatchObject(taken);
    expect(readdirSync(east)).toEqual([]);
    plugIn();
    await expect(
      checkAnyFolder(runtime(), { root, folder: folder(), list: null }, pulling()),
    ).rejects.toMatchObject(taken);
    plugIn();
    expect((await wipeView(runtime(), id)).copies.find((c) => c.rootName === 'east')).toMatchObject({
      ...{ proven: 7, wrong: 0, check: null },
    });
    expect(await checkAgain(runtime(), copy.id)).toMatchObject({ same: 7, missing: [] });
  });

  test('as a shelf: neither records nor folders of the job go to the folder', async () => {
    const west = drives.mount('west', drives.image('west', 'WEST'));
    const shelf = (await addRoot(runtime(), { kind: 'shelf', path: west })).id;
    await runtime().keepNow();
    expect(readdirSync(path.join(west, '.sort-shelf')).join()).toContain('.jsonl');
    drives.unmount(west);
    await writeLog(runtime(), 'name', 'something to be recorded');
    await runtime().keepNow();
    const folders = { root: shelf, skeleton: ['Sound'], layOut: true };
    await expect(skeleton(runtime(), folders)).rejects.toMatchObject({ message: '“west” is offline.' });
    expect(readdirSync(west)).toEqual([]);
  });

  test('while names are given across volumes: nothing goes to the folder, and what was to leave its volume stays', async () => {
    put(path.join(r.shelf.shelf, 'T1.MP4'), footage('T1', 5000));
    const before = readFileSync(path.join(r.shelf.shelf, 'T1.MP4'));
    const { mtimeMs } = statSync(path.join(r.shelf.shelf, 'T1.MP4'));
    const step = (kind: 'carry' | 'copy') => ({
      ...{ kind, fileId: 'f', clipId: 'c', size: 5000, modified: Math.round(mtimeMs) },
      from: { root: 'shelf', path: 'T1.MP4' },
      to: { root, path: 'New/T1.MP4' },
    });
    const now = () => rootsNow(runtime(), [{ fromRoot: 'shelf', toRoot: root }]);
    const roots = await now();
    pull();
    for (const known of [roots, await now()])
      for (const kind of ['carry', 'copy'] as const)
        await expect(doStep(known, step(kind))).rejects.toMatchObject({ title: 'Not found' });
    expect(readdirSync(east)).toEqual([]);
    expect(readFileSync(path.join(r.shelf.shelf, 'T1.MP4'))).toEqual(before);
    plugIn();
    await doStep(await now(), step('carry'));
    expect(readFileSync(path.join(east, 'New/T1.MP4'))).toEqual(before);
    expect(existsSync(path.join(r.shelf.shelf, 'T1.MP4'))).toBe(false);
  });

  test('before a plan that a crash cut off is finished: the plan waits for the drive, and gives nothing up', async () => {
    const from = path.join(r.shelf.shelf, 'T2.MP4');
    put(from, footage('T2', 5000));
    const { mtimeMs } = statSync(from);
    const { db, job } = runtime();
    await db.insert(plans).values({ id: 'cut off', job, kind: 'name', state: 'doing', madeAt: new Date() });
    await db.insert(steps).values({
      ...{ plan: 'cut off', number: 1, clip: 'c', file: 'f', kind: 'carry', state: 'waiting' },
      ...{ fromRoot: 'shelf', fromPath: 'T2.MP4', toRoot: root, toPath: 'New/T2.MP4' },
      ...{ size: 5000, modified: Math.round(mtimeMs) },
    });
    const states = async () => (await db.select().from(steps)).map((s) => s.state);
    pull();
    expect(await recoverPlans(runtime())).toEqual(['east']);
    expect([await states(), readdirSync(east), existsSync(from)]).toEqual([['waiting'], [], true]);
    plugIn();
    expect(await recoverPlans(runtime())).toEqual([]);
    expect([await states(), existsSync(from)]).toEqual([['done'], false]);
    expect(readFileSync(path.join(east, 'New/T2.MP4'))).toEqual(footage('T2', 5000));
  });
});
