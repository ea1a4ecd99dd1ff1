import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { cpSync, mkdirSync, realpathSync, renameSync, rmSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { beginJob } from '../jobs/jobs';
import { log } from '../logbook/tables';
import { resolveIn } from '../platform/files/paths';
import { isWithin } from '../platform/files/paths';
import { TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import type { InJob } from '../runtime';
import { listRoots, rootById } from './list';
import { settleMounts } from './mounts';
import { addRoot, removeRoot, rootViews } from './roots';
import { mounts, roots } from './tables';

// Roots on volumes that are mounted here and there: folders that are made to look like mounts, each with the volume that is in it.

let s: TestShelf;
let r: InJob;
/** Which volume is mounted at each folder of `mnt`. */
let volumes: Record<string, string>;
const at = (...p: string[]): string => path.join(s.dir, 'mnt', ...p);
const mountOf = (folder: string): string =>
  Object.keys(volumes)
    .map((name) => at(name))
    .find((m) => isWithin(folder, m)) ?? '/';

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  r = Object.assign(Object.create(s.runtime) as InJob, {
    devices: {
      ...s.runtime.devices,
      mountOf,
      mounted: () => ['/', ...Object.keys(volumes).map((name) => at(name))],
      volumeIdOf: (folder: string) => {
        const mount = mountOf(folder);
        return mount === '/' ? 'volume system' : (volumes[path.basename(mount)] ?? null);
      },
    },
  });
});
afterAll(() => s.close());

let id: string;
const place = async (): Promise<string> => (await rootById(r, id)).path;
const view = async () => (await rootViews(r)).find((v) => v.id === id)!;
beforeEach(async () => {
  if (id) await removeRoot(r, id);
  rmSync(at(), { recursive: true, force: true });
  mkdirSync(at('one', 'Copies'), { recursive: true });
  mkdirSync(at('two'));
  volumes = { one: 'volume A' };
  id = (await addRoot(r, { kind: 'safe', path: at('one', 'Copies') })).id;
  await s.runtime.db.delete(log);
});
const said = async (): Promise<string[]> => (await s.runtime.db.select().from(log)).map((l) => l.text);

test('a root is known by its volume and the folder on it; a reader, and what stands beside the data folder, by its place', async () => {
  const byId = new Map((await s.runtime.db.select().from(roots)).map((x) => [x.id, x]));
  expect(byId.get(id)).toMatchObject({ volume: 'volume A', within: 'Copies' });
  const reader = await addRoot(r, { kind: 'source', path: realpathSync(at('two')) });
  await settleMounts(r);
  expect((await s.runtime.db.select().from(roots).where(eq(roots.id, reader.id)))[0]).toMatchObject({
    volume: null,
    within: null,
  });
  expect(byId.get('shelf')).toMatchObject({ volume: null });
  await removeRoot(r, reader.id);
});

test('a drive that is mounted elsewhere is found there, and found again where it was', async () => {
  renameSync(at('one'), at('three'));
  volumes = { three: 'volume A' };
  expect(await settleMounts(r)).toBe(true);
  expect(await place()).toBe(at('three', 'Copies'));
  expect(await view()).toMatchObject({ present: true, path: at('three', 'Copies') });
  expect(await said()).toEqual([expect.stringContaining(`Found “Copies” at ${at('three', 'Copies')}`)]);
  expect(await settleMounts(r)).toBe(false);
  renameSync(at('three'), at('one'));
  volumes = { one: 'volume A' };
  await settleMounts(r);
  expect(await place()).toBe(at('one', 'Copies'));
});

test('the folder a drive is mounted at is not the drive: it is not there, and nothing is written into the folder', async () => {
  // Unmounted: the folder is left, on the system's own volume.
  volumes = {};
  await settleMounts(r);
  expect(await view()).toMatchObject({ present: false, path: at('one', 'Copies') });
  await expect(resolveIn(await rootById(r, id), 'B001')).rejects.toThrow(
    `The folder of “Copies” is not there: ${at('one', 'Copies')}`,
  );
  expect(await said()).toEqual([
    expect.stringMatching(/^Another volume stands at [^]*Copies: “Copies” is offline$/),
  ]);
  // Another drive at its place.
  volumes = { one: 'volume B' };
  await settleMounts(r);
  expect(await view()).toMatchObject({ present: false });
  // It comes back at another place, while the other one is still there.
  mkdirSync(at('two', 'Copies'));
  volumes = { one: 'volume B', two: 'volume A' };
  await settleMounts(r);
  expect(await place()).toBe(at('two', 'Copies'));
  // And to the first.
  volumes = { one: 'volume A' };
  await settleMounts(r);
  expect(await place()).toBe(at('one', 'Copies'));
});

test('a drive that is only read is found by its volume', async () => {
  volumes = { one: 'volume A', two: 'volume R' };
  const { id: source } = await addRoot(r, { kind: 'source', path: at('two') });
  mkdirSync(at('five'));
  volumes = { one: 'volume A', five: 'volume R' };
  await settleMounts(r);
  expect((await rootById(r, source)).path).toBe(at('five'));
  // Back at its own place there may be another card: it is what is read there.
  volumes = { one: 'volume A', two: 'volume S' };
  await settleMounts(r);
  expect((await rootById(r, source)).path).toBe(at('two'));
  volumes = { one: 'volume A' };
  await settleMounts(r);
  expect((await rootViews(r)).find((v) => v.id === source)).toMatchObject({
    present: false,
    path: at('two'),
  });
  await removeRoot(r, source);
});

test('of a volume and its clone nobody can say which is meant: neither is taken', async () => {
  mkdirSync(at('two', 'Copies'));
  mkdirSync(at('four', 'Copies'), { recursive: true });
  rmSync(at('one'), { recursive: true });
  volumes = { two: 'volume A', four: 'volume A' };
  await settleMounts(r);
  expect(await view()).toMatchObject({ present: false, path: at('one', 'Copies') });
  // Beside the one that is at its place the clone is nothing.
  mkdirSync(at('one', 'Copies'), { recursive: true });
  volumes = { one: 'volume A', two: 'volume A' };
  await settleMounts(r);
  expect(await place()).toBe(at('one', 'Copies'));
});

test('where it stands on another computer is not where it stands here', async () => {
  await s.runtime.db.insert(mounts).values({ host: 'another', root: id, path: '/Volumes/Copies' });
  expect(await place()).toBe(at('one', 'Copies'));
  await settleMounts(r);
  expect((await listRoots(r)).filter((x) => x.id === id).map((x) => x.path)).toEqual([at('one', 'Copies')]);
  // Nor is that forgotten.
  expect((await s.runtime.db.select().from(mounts).where(eq(mounts.host, 'another')))[0]!.path).toBe(
    '/Volumes/Copies',
  );
});

test('a root of before is known by the volume that stands there; one whose drive is away waits for it', async () => {
  await s.runtime.db.update(roots).set({ volume: null, within: null }).where(eq(roots.id, id));
  await s.runtime.db.delete(mounts);
  volumes = {};
  await settleMounts(r);
  expect((await rootById(r, id)).volume).toBeNull();
  volumes = { one: 'volume A' };
  await settleMounts(r);
  expect(await rootById(r, id)).toMatchObject({ volume: 'volume A', within: 'Copies' });
});

test('the shelf of a data folder that was copied is the copy, and what was proven of copies in it is not believed of that', async () => {
  const home = at('copied');
  cpSync(path.join(s.dir, 'home', 'shelf'), path.join(home, 'shelf'), { recursive: true });
  const distrusted: string[] = [];
  const copied = Object.assign(Object.create(r) as InJob, {
    home,
    distrustCopies: (root: string) => Promise.resolve(void distrusted.push(root)),
  });
  const shelf = async () => (await rootById(r, 'shelf')).path;
  const before = await shelf();
  try {
    await settleMounts(copied);
    expect(await shelf()).toBe(path.join(home, 'shelf'));
    expect(distrusted).toEqual(['shelf']);
  } finally {
    await settleMounts(r);
  }
  expect(await shelf()).toBe(before);
});
