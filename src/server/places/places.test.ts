import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { cpSync, existsSync, mkdirSync, readFileSync, realpathSync, renameSync, rmSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { look, takeIn } from '../intake';
import { beginJob } from '../jobs/jobs';
import { log } from '../logbook/tables';
import { isWithin } from '../platform/files/paths';
import { DISKS } from '../platform/volumes/devices';
import type { InJob } from '../runtime';
import { hashTree, makeClip, put, TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { mayMount, RealMounts } from '../testing/realMounts';
import { listRoots, rootById } from './list';
import { markAt, setMark } from './marker';
import { settleMounts } from './mounts';
import { newFolder, outsideFolder } from './outside';
import { addRoot, changeRoot, placeViews, removeRoot } from './roots';
import type { Writer } from '../platform/db/transaction';
import { roots } from './tables';
import { placesView, VolumeWatch } from './volumes';

let s: TestShelf;
const real = new RealMounts();
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(async () => {
  await s.close();
  real.end();
});
const folder = (...name: string[]): string => {
  const at = path.join(s.dir, ...name);
  mkdirSync(at, { recursive: true });
  return realpathSync(at);
};
const view = async (id: string, r: InJob = s.runtime) => (await placeViews(r)).find((v) => v.id === id)!;
const lines = async () => (await s.runtime.db.select().from(log)).map((l) => l.text);

test('places are listed by their part, and by their names as people count', async () => {
  const made = [];
  for (const name of ['Backup 10', 'Backup 9', 'backup 1'])
    made.push(await addRoot(s.runtime, { kind: 'safe', path: folder(name) }));
  const names = (await listRoots(s.runtime)).map((r) => r.name);
  expect(names.slice(0, 3)).toEqual(['Shelf', 'Proxies', 'Handover']);
  expect(names.filter((n) => /^backup/i.test(n))).toEqual(['backup 1', 'Backup 9', 'Backup 10']);
  for (const { id } of made) await removeRoot(s.runtime, id);
});

describe('the mark of a place', () => {
  test('every place that is written to carries one, one that is only read does not', async () => {
    const [safe, reader] = [folder('marked'), folder('card-in')];
    const a = await addRoot(s.runtime, { kind: 'safe', path: safe });
    const b = await addRoot(s.runtime, { kind: 'source', path: reader });
    expect(await markAt(safe)).toBe((await rootById(s.runtime, a.id)).mark);
    expect(existsSync(path.join(reader, '.sort-shelf'))).toBe(false);
    // In plain text, for whoever finds it.
    expect(JSON.parse(readFileSync(path.join(safe, '.sort-shelf/place.json'), 'utf8'))).toMatchObject({
      is: 'a place of Sort Shelf',
    });
    await settleMounts(s.runtime);
    const views = await placeViews(s.runtime);
    expect(Object.fromEntries(views.map((v) => [v.name, v.knownBy]))).toMatchObject({
      Shelf: 'mark',
      Proxies: 'mark',
      Handover: 'mark',
      marked: 'mark',
      'card-in': 'place',
    });
    await removeRoot(s.runtime, a.id);
    await removeRoot(s.runtime, b.id);
    // What was a place is taken again by the mark it carries.
    expect((await addRoot(s.runtime, { kind: 'safe', path: safe })).mark).toBe(await markAt(safe));
  });

  test('one that cannot be read is none: damaged, too long, a link', async () => {
    const at = folder('bad marks');
    expect(await markAt(at)).toBeNull();
    for (const text of ['{', '{"is":"a place of Sort Shelf","version":1,"mark":"x"}', ' '.repeat(9000)]) {
      put(path.join(at, '.sort-shelf/place.json'), text);
      expect(await markAt(at)).toBeNull();
    }
    const mark = 'c2f1a6b0-58fa-4f0c-9a35-2f1f6a1b9e01';
    expect(await setMark(at, mark)).toBe(true);
    expect(await markAt(at)).toBe(mark);
  });

  test('a copied folder becomes a place of its own; one whose place is offline is asked about', async () => {
    const one = folder('disk', 'Copies');
    const { id, mark } = await addRoot(s.runtime, { kind: 'safe', path: one });
    const copy = path.join(s.dir, 'other', 'Copies');
    cpSync(one, copy, { recursive: true });
    const second = await addRoot(s.runtime, { kind: 'safe', path: realpathSync(copy) });
    expect(second.mark).not.toBe(mark);
    expect(await markAt(copy)).toBe(second.mark);
    await removeRoot(s.runtime, second.id);
    renameSync(one, path.join(s.dir, 'disk', 'moved'));
    const moved = path.join(s.dir, 'disk', 'moved');
    await expect(addRoot(s.runtime, { kind: 'safe', path: moved })).rejects.toMatchObject({
      title: 'Clash',
      message: `${moved} carries the mark of “Copies”, which is offline.`,
    });
    await changeRoot(s.runtime, id, { path: moved });
    expect(await view(id)).toMatchObject({ present: true, path: moved, doubts: [] });
    await removeRoot(s.runtime, id);
  });
});

// Drives that are mounted for real, without identities of their own as the system says them: the mark alone tells them.
const really = mayMount ? describe : describe.skip;
really('drives mounted elsewhere', () => {
  let r: InJob;
  const distrusted: string[] = [];
  beforeEach(() => {
    r = Object.assign(Object.create(s.runtime) as InJob, {
      devices: {
        ...DISKS,
        mounted: () => DISKS.mounted().filter((m) => m === '/' || isWithin(m, real.dir)),
        volumes: () => DISKS.volumes().filter((v) => isWithin(v.at, real.dir)),
        volumeIdOf: () => null,
      },
      distrustCopies: (root: string, volume: string | null, tx?: Writer) => {
        distrusted.push(root);
        return s.runtime.distrustCopies(root, volume, tx);
      },
    });
    distrusted.length = 0;
  });
  const where = async (id: string) => (await rootById(r, id)).path;

  test('are found again by their mark, with all in them; what is at their place meanwhile is none of them', async () => {
    const image = real.image('north', 'NORTH');
    const first = real.mount('first', image);
    put(path.join(first, 'Safe', 'A001', 'a.mov'), 'footage');
    const { id } = await addRoot(r, { kind: 'safe', path: path.join(first, 'Safe') });
    const before = hashTree(path.join(first, 'Safe'));
    // Away: the empty folder it was mounted at is left.
    real.unmount(first);
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({ present: false, path: path.join(first, 'Safe'), doubts: [] });
    // Another drive with a folder of that name.
    const other = real.mount('first', real.image('south', 'SOUTH'));
    put(path.join(other, 'Safe', 'x.txt'), 'another drive’s');
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({
      present: false,
      doubts: [
        { path: path.join(other, 'Safe'), why: 'it is where the place was, but does not carry its mark' },
      ],
    });
    expect(existsSync(path.join(other, 'Safe', '.sort-shelf'))).toBe(false);
    // And now it is mounted somewhere else.
    const second = real.mount('second', image);
    await settleMounts(r);
    expect(await where(id)).toBe(path.join(second, 'Safe'));
    expect(await view(id, r)).toMatchObject({ present: true, path: path.join(second, 'Safe') });
    expect(hashTree(path.join(second, 'Safe'))).toEqual(before);
    // Known by its mark alone: what is in it proves nothing until it was read there.
    expect(distrusted).toEqual([id]);
    expect(await lines()).toContainEqual(`Found “Safe” at ${path.join(second, 'Safe')}`);
    real.unmount(second);
    real.unmount(other);
    await settleMounts(r);
    await removeRoot(r, id);
  });

  test('a drive and its clone are asked about, and told apart from then on', async () => {
    const image = real.image('twin', 'TWIN');
    const one = real.mount('one', image);
    const { id } = await addRoot(r, { kind: 'safe', path: one });
    real.unmount(one);
    const clone = path.join(real.dir, 'clone.img');
    cpSync(image, clone);
    const [two, three] = [real.mount('two', image), real.mount('three', clone)];
    await settleMounts(r);
    const offline = await view(id, r);
    expect(offline.present).toBe(false);
    expect(offline.doubts.map((d) => d.path).sort()).toEqual([three, two].sort());
    await changeRoot(r, id, { path: three });
    expect(await view(id, r)).toMatchObject({ present: true, path: three, doubts: [] });
    real.unmount(two);
    real.unmount(three);
    await settleMounts(r);
    // The one that was not chosen is not taken for it any more.
    const four = real.mount('four', image);
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({ present: false, doubts: [] });
    const five = real.mount('five', clone);
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({ present: true, path: five });
    real.unmount(four);
    real.unmount(five);
    await removeRoot(r, id);
  });

  test('a card that is pulled out is not there, though the folder it was mounted at is; the next one in the reader is', async () => {
    const first = real.image('card one', 'ONE');
    const reader = real.mount('reader', first);
    const { id } = await addRoot(r, { kind: 'source', path: reader });
    expect(await view(id, r)).toMatchObject({ present: true });
    const said = (await lines()).length;
    real.unmount(reader);
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({ present: false, path: reader, doubts: [] });
    real.mount('reader', real.image('card two', 'TWO'));
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({ present: true, path: reader });
    expect((await lines()).length).toBe(said);
    real.unmount(reader);
    await settleMounts(r);
    await removeRoot(r, id);
  });

  test('one folder that is mounted at two places is one', async () => {
    const image = real.image('bound', 'BOUND');
    const one = real.mount('bound one', image);
    const { id } = await addRoot(r, { kind: 'safe', path: one });
    real.unmount(one);
    const [two, three] = [real.mount('bound two', image), real.at('bound three')];
    mkdirSync(three);
    real.bind(two, three);
    await settleMounts(r);
    expect(await view(id, r)).toMatchObject({ present: true, path: two, doubts: [] });
    real.unmount(three);
    real.unmount(two);
    await removeRoot(r, id);
  });

  test('volumes are told with their room and what is on them, and which came and went', async () => {
    const watch = new VolumeWatch(r.devices);
    const here = () => placesView(Object.assign(Object.create(r) as InJob, { volumes: watch }));
    expect(watch.look()).toBe(false);
    const at = real.mount('plugged in');
    expect(watch.look()).toBe(true);
    const { id } = await addRoot(r, { kind: 'safe', path: at });
    const seen = await here();
    expect(seen.volumes).toEqual([
      expect.objectContaining({ at, name: 'plugged in', type: 'tmpfs', kind: 'memory', roots: [id] }),
    ]);
    expect(seen.volumes[0]!.total).toBe(8 << 20);
    expect(seen.changed).toMatchObject({ came: ['plugged in'], went: [] });
    real.unmount(at);
    expect(watch.look()).toBe(true);
    expect((await here()).changed).toMatchObject({ came: [], went: ['plugged in'] });
    await settleMounts(r);
    await removeRoot(r, id);
  });
});

describe('changing a place', () => {
  test('it is renamed; its folder is called as before', async () => {
    const { id } = await addRoot(s.runtime, { kind: 'safe', path: folder('Untitled') });
    await changeRoot(s.runtime, id, { name: 'North' });
    expect(await view(id)).toMatchObject({ name: 'North', path: folder('Untitled') });
    await removeRoot(s.runtime, id);
  });

  test('it is given another part as long as nothing names it; read only and to sort in change at any time', async () => {
    const at = folder('parts');
    makeClip(path.join(at, 'Card', 'T0001.MP4'), { audio: [] });
    const { id } = await addRoot(s.runtime, { kind: 'safe', path: at });
    await changeRoot(s.runtime, id, { kind: 'source' });
    expect((await view(id)).kind).toBe('source');
    const { cards } = await look(s.runtime, id, 'Card');
    await takeIn(s.runtime, {
      root: id,
      path: 'Card',
      cards: [{ folder: cards[0]!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
    });
    expect((await view(id)).use).toBe('card B001');
    await changeRoot(s.runtime, id, { kind: 'shelf' });
    expect(await view(id)).toMatchObject({ kind: 'shelf', knownBy: 'mark' });
    await expect(changeRoot(s.runtime, id, { kind: 'safe' })).rejects.toMatchObject({
      title: 'Clash',
      message: '“parts” is in use: card B001.',
    });
    await expect(changeRoot(s.runtime, 'shelf', { kind: 'safe' })).rejects.toThrow(/keeps its part/);
  });

  test('a folder that was moved by hand is shown to it; one without any of its files is refused', async () => {
    const id = (await s.runtime.db.select().from(roots).where(eq(roots.name, 'parts')))[0]!.id;
    const moved = path.join(s.dir, 'moved by hand');
    renameSync(path.join(s.dir, 'parts'), moved);
    await expect(changeRoot(s.runtime, id, { path: folder('wrong one') })).rejects.toThrow(
      /is not “parts”: of 1 files that are known in it, none is there/,
    );
    await changeRoot(s.runtime, id, { path: moved });
    expect(await view(id)).toMatchObject({ present: true, path: moved });
    expect(await lines()).toContainEqual(
      `“parts” is at ${moved} now (1 of 1 files that were looked for are there)`,
    );
    await settleMounts(s.runtime);
    expect((await rootById(s.runtime, id)).path).toBe(moved);
    await expect(changeRoot(s.runtime, 'shelf', { path: moved })).rejects.toThrow(
      /moves with the data folder/,
    );
    await expect(changeRoot(s.runtime, id, { path: s.runtime.home })).rejects.toThrow(/own data/);
  });
});

describe('choosing a folder', () => {
  test('those in it are listed with what they are; what is the system’s, hidden, or a file is not', async () => {
    const at = folder('walk');
    for (const f of ['b', 'a', '.hidden']) mkdirSync(path.join(at, f));
    put(path.join(at, 'x.txt'), 'x');
    const { id } = await addRoot(s.runtime, { kind: 'safe', path: path.join(at, 'b') });
    expect(await outsideFolder(s.runtime, at)).toMatchObject({
      path: at,
      up: path.dirname(at),
      files: 1,
      folders: [
        { name: 'a', root: null },
        { name: 'b', root: 'b' },
      ],
      refused: expect.stringContaining('It overlaps the place “b”'),
      writable: true,
    });
    expect((await outsideFolder(s.runtime, path.join(at, 'a'))).refused).toBeNull();
    const top = await outsideFolder(s.runtime, '/');
    expect(top).toMatchObject({ up: null, refused: expect.stringContaining('a folder of the system') });
    const named = top.folders.map((f) => f.path);
    expect(named).toEqual(expect.arrayContaining(['/home', '/mnt']));
    for (const f of ['/etc', '/proc', '/usr']) expect(named).not.toContain(f);
    await expect(outsideFolder(s.runtime, '/etc')).rejects.toThrow(/a folder of the system/);
    await expect(outsideFolder(s.runtime, path.join(at, 'x.txt'))).rejects.toThrow(/is a file/);
    await expect(outsideFolder(s.runtime, path.join(at, 'gone'))).rejects.toThrow(/There is no folder/);
    await expect(outsideFolder(s.runtime, 'walk')).rejects.toThrow(/full path/);
    await removeRoot(s.runtime, id);
  });

  test('a new one is made in it', async () => {
    const at = folder('make');
    expect(await newFolder(s.runtime, { path: at, name: 'Copies' })).toEqual({
      path: path.join(at, 'Copies'),
    });
    expect(existsSync(path.join(at, 'Copies'))).toBe(true);
    await expect(newFolder(s.runtime, { path: at, name: 'Copies' })).rejects.toMatchObject({
      title: 'Clash',
    });
    for (const name of ['../x', 'a/b', '.', '..', '.hidden'])
      await expect(newFolder(s.runtime, { path: at, name })).rejects.toThrow(/is no name for a folder/);
    await expect(newFolder(s.runtime, { path: s.runtime.home, name: 'x' })).rejects.toThrow(
      /Sort Shelf itself/,
    );
    await expect(newFolder(s.runtime, { path: '/', name: 'x' })).rejects.toThrow();
    expect(existsSync('/x')).toBe(false);
    rmSync(at, { recursive: true });
  });
});
