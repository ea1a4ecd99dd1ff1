import { afterEach, beforeEach, expect, test } from '@jest/globals';
import {
  appendFileSync,
  cpSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  utimesSync,
} from 'node:fs';
import path from 'node:path';
import { newBlock } from '../../core/naming/blocks';
import { type Convention, DEFAULT_FOLDER_PLAN } from '../../core/naming/convention';
import { namingRequest } from '../../core/naming/shapes';
import { clips } from '../cards/tables';
import { sayOfClips } from '../facts';
import { beginJob } from '../jobs';
import { log } from '../logbook/tables';
import { addRoot } from '../places';
import { layer } from '../platform/files/fileSystem';
import { type InJob, openRuntime } from '../runtime';
import { databaseInMemory } from '../testing/database';
import { frozen } from '../testing/frozenServer';
import { hashTree, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { mayMountExfat, RealMounts } from '../testing/realMounts';
import { storeShelved } from '../testing/shelve';
import { applyNaming, planNaming, undoPlan } from '.';
import { journalChanges, undoFromJournal } from './undoJournal';

let s: TestShelf;
let runtime: InJob;
let close: TestShelf['close'];
beforeEach(async () => {
  s = await testShelf();
  runtime = s.runtime;
  close = () => s.close();
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterEach(() => close());

const lay = (folder: string, stems: readonly string[], root = s.shelf): void => {
  for (const stem of stems)
    for (const name of [`${stem}.MP4`, `${stem}.XML`])
      put(path.join(root, folder, name), `${folder} ${name}${name.endsWith('4') ? ' the larger' : ''}`);
};
const plain: Convention = {
  name: 'Test',
  blocks: [newBlock('card'), newBlock('counter', 'n', { digits: 3 })],
  changes: [],
};
const listed: Convention = { ...plain, blocks: [newBlock('listed')] };
/** Gives the clips names by hand, which the convention of listed names takes. */
const give = (ids: ReadonlyMap<string, string>, names: Record<string, string>) =>
  sayOfClips(runtime, {
    said: Object.entries(names).map(([k, value]) => ({ clip: ids.get(k)!, field: 'givenName', value })),
  });
const apply = async (convention = plain, root: string | null = null, by = runtime): Promise<string> => {
  const folderPlan = { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('card')]], root };
  const request = namingRequest({ convention, folderPlan });
  const { preview } = await planNaming(by, request);
  const result = await applyNaming(by, { ...request, fingerprint: preview.fingerprint });
  expect(result.failed).toEqual([]);
  return result.planId;
};
const tree = () => Object.fromEntries(Object.entries(hashTree(s.shelf)).filter(([f]) => !f.startsWith('.')));
/** The database is lost, with all its records, and another begun on the same data folder. */
async function loseDatabase(): Promise<void> {
  await runtime.close();
  const opened = await openRuntime({ home: runtime.home, database: await databaseInMemory(), work: [] });
  runtime = opened.inJob(TEST_JOB);
  close = async () => {
    await opened.close();
    await s.close();
  };
}

test('with the database lost, names are undone from the journal alone: the later ones first, and nothing else changes', async () => {
  lay('Card', ['T1', 'T2', 'T3']);
  const before = tree();
  const ids = await storeShelved(runtime, 'Card');
  const first = await apply();
  const middle = tree();
  await give(ids, { T1: 'B001_002', T2: 'B001_003', T3: 'B001_004' });
  const second = await apply(listed);
  await loseDatabase();
  const [only, ...others] = await journalChanges(runtime);
  expect(others).toEqual([]);
  expect(only).toMatchObject({ plan: second, clips: 3, open: 3, back: 0, staying: [] });
  expect(only!.examples).toContainEqual({ from: 'B001/B001_004.MP4', to: 'B001/B001_003.MP4' });
  await expect(undoFromJournal(runtime, first)).rejects.toThrow('nothing can be taken back');
  const told: unknown[] = [];
  const stop = runtime.events.listen((e) => {
    if (e.type === 'running') told.push([e.job, e.done, e.total]);
  });
  expect(await undoFromJournal(runtime, second)).toEqual({ files: 6, failed: [] });
  stop();
  expect([told[0], told.at(-1)]).toEqual([
    [null, 0, 6],
    [null, 6, 6],
  ]);
  expect(tree()).toEqual(middle);
  expect((await journalChanges(runtime)).map((c) => [c.plan, c.open])).toEqual([[first, 3]]);
  expect(await undoFromJournal(runtime, first)).toEqual({ files: 6, failed: [] });
  expect(tree()).toEqual(before);
  expect(await journalChanges(runtime)).toEqual([]);
  // Both are in the logbook of all jobs.
  const entry = {
    ...{ kind: 'undo', job: null },
    text: '6 files went back to where they were before a change of names that only the journal on the shelf knows.',
  };
  expect(await runtime.db.select().from(log)).toMatchObject([entry, entry]);
});

test('files of one size and time are told by what they hold where a crash came while their names moved on', async () => {
  const stems = ['T1', 'T2', 'T3'];
  for (const stem of stems)
    utimesSync(put(path.join(s.shelf, 'Card', `${stem}.MP4`), `the picture ${stem}`), 1e9, 1e9);
  const before = tree();
  const ids = await storeShelved(runtime, 'Card');
  const first = await apply();
  const middle = tree();
  await give(ids, { T1: 'B001_002', T2: 'B001_003', T3: 'B001_004' });
  expect(await frozen(runtime, (r) => apply(listed, null, r), 3)).toBe(true);
  expect(Object.keys(tree()).sort()).toEqual(
    ['B001_001', 'B001_002', 'B001_004'].map((n) => `B001/${n}.MP4`),
  );
  await loseDatabase();
  const [change] = await journalChanges(runtime);
  expect(change).toMatchObject({ clips: 3, open: 1, back: 2, staying: [] });
  expect(await undoFromJournal(runtime, change!.plan)).toEqual({ files: 1, failed: [] });
  expect(tree()).toEqual(middle);
  expect(await undoFromJournal(runtime, first)).toEqual({ files: 3, failed: [] });
  expect(tree()).toEqual(before);
});

test('a plan that the database knows, or that was undone before it was lost, is not offered', async () => {
  lay('Card', ['T1']);
  await storeShelved(runtime, 'Card');
  const plan = await apply();
  expect(await journalChanges(runtime)).toEqual([]);
  await undoPlan(runtime, plan);
  await loseDatabase();
  expect(await journalChanges(runtime)).toEqual([]);
});

test('a clip stays whole where a file of it was changed, renamed again, or is a clip of a job; it is said why, and the others go', async () => {
  lay('Card', ['T1', 'T2', 'T3', 'T4']);
  await storeShelved(runtime, 'Card');
  const plan = await apply();
  await loseDatabase();
  const at = (name: string) => path.join(s.shelf, 'B001', name);
  appendFileSync(at('B001_001.XML'), 'more');
  renameSync(at('B001_002.MP4'), at('Wheel.MP4'));
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  mkdirSync(path.join(s.shelf, 'Other'));
  await storeShelved(runtime, 'B001');
  await runtime.db.delete(clips);
  const [change] = await journalChanges(runtime);
  expect(change).toMatchObject({ clips: 4, open: 2 });
  expect(change!.staying).toEqual([
    { file: 'B001/B001_001.XML', why: 'it was renamed, changed or taken away since' },
    { file: 'B001/B001_002.MP4', why: 'it was renamed, changed or taken away since' },
  ]);
  expect((await undoFromJournal(runtime, plan)).files).toBe(4);
  expect(Object.keys(tree()).sort()).toEqual([
    'B001/B001_001.MP4',
    'B001/B001_001.XML',
    'B001/B001_002.XML',
    'B001/Wheel.MP4',
    'Card/T3.MP4',
    'Card/T3.XML',
    'Card/T4.MP4',
    'Card/T4.XML',
  ]);
});

test('files that a job knows here are not moved behind its back', async () => {
  lay('Card', ['T1', 'T2']);
  await storeShelved(runtime, 'Card');
  const plan = await apply();
  await loseDatabase();
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  await storeShelved(runtime, 'B001');
  const before = tree();
  expect(await journalChanges(runtime)).toEqual([]);
  await expect(undoFromJournal(runtime, plan)).rejects.toThrow('nothing can be taken back');
  expect(tree()).toEqual(before);
});

test('where another file has taken the old name the clip stays whole, and what went back comes forth again', async () => {
  lay('Card', ['T1', 'T2']);
  await storeShelved(runtime, 'Card');
  const plan = await apply();
  await loseDatabase();
  put(path.join(s.shelf, 'Card/T1.XML'), 'somebody’s');
  const { files, failed } = await undoFromJournal(runtime, plan);
  expect([files, failed.length]).toEqual([2, 1]);
  expect(failed[0]!.fault).toMatch(/T1\.XML/);
  expect(Object.keys(tree()).sort()).toEqual([
    'B001/B001_001.MP4',
    'B001/B001_001.XML',
    'Card/T1.XML',
    'Card/T2.MP4',
    'Card/T2.XML',
  ]);
  expect(readFileSync(path.join(s.shelf, 'Card/T1.XML'), 'utf8')).toBe('somebody’s');
});

test('a place that was added is known again by its path; until it is added it is said which one is missing', async () => {
  const drive = path.join(s.dir, 'drive');
  mkdirSync(drive);
  const root = await addRoot(runtime, { kind: 'shelf', path: drive });
  lay('Card', ['T1']);
  const before = tree();
  await storeShelved(runtime, 'Card');
  await apply(plain, root.id);
  await loseDatabase();
  const [away] = await journalChanges(runtime);
  expect(away).toMatchObject({ clips: 1, open: 0 });
  expect(away!.staying[0]!.why).toBe(`${drive} is not among the places: add it first`);
  await addRoot(runtime, { kind: 'shelf', path: drive });
  const [change] = await journalChanges(runtime);
  expect(change).toMatchObject({ clips: 1, open: 1 });
  expect((await undoFromJournal(runtime, change!.plan)).files).toBe(2);
  expect(tree()).toMatchObject(before);
});

test('interrupted at any change to the disk, an undo from the journal is finished by doing it again, also of files that changed places and are as large and as old', async () => {
  lay('Card', ['a', 'b', 'c']);
  for (const f of Object.keys(tree())) utimesSync(path.join(s.shelf, f), 1000, 1000);
  const before = tree();
  const ids = await storeShelved(runtime, 'Card');
  await give(ids, { a: 'b', b: 'a', c: 'd' });
  const plan = await apply(listed);
  const named = path.join(s.dir, 'named');
  const lay2 = (from: string, to: string) =>
    cpSync(from, to, {
      recursive: true,
      preserveTimestamps: true,
      filter: (f) => !f.includes('.sort-shelf'),
    });
  lay2(s.shelf, named);
  await loseDatabase();
  let number = 0;
  for (let came = true; came; number++) {
    for (const f of readdirSync(s.shelf).filter((f) => !f.startsWith('.')))
      rmSync(path.join(s.shelf, f), { recursive: true });
    lay2(named, s.shelf);
    // From there on nothing can be changed, as by a drive that is pulled.
    let made = 0;
    layer.ask = () => {
      if (made++ >= number) throw Object.assign(new Error('EIO: i/o error'), { code: 'EIO' });
    };
    const first = await undoFromJournal(runtime, plan);
    layer.ask = null;
    came = made > number;
    expect(first.failed.length > 0).toBe(came && first.files < 6);
    const [left] = await journalChanges(runtime);
    if (left) expect((await undoFromJournal(runtime, plan)).failed).toEqual([]);
    expect([number, tree()]).toEqual([number, before]);
    expect(await journalChanges(runtime)).toEqual([]);
  }
  expect(number).toBeGreaterThan(12);
});

test('a family that a fault leaves split is told of, file by file', async () => {
  lay('Card', ['T1']);
  await storeShelved(runtime, 'Card');
  const plan = await apply();
  await loseDatabase();
  const old = () => Object.keys(tree()).filter((f) => f.startsWith('Card/')).length;
  // The first file has gone back; from there on nothing can be changed.
  layer.ask = () => {
    if (old() > 0 && Object.keys(tree()).length === 2)
      throw Object.assign(new Error('EIO: i/o error'), { code: 'EIO' });
  };
  const { files, failed } = await undoFromJournal(runtime, plan).finally(() => (layer.ask = null));
  expect([old(), files]).toEqual([1, 1]);
  expect(failed.map((f) => f.fault)).toEqual([
    expect.stringMatching(/^its clip stays together: /),
    expect.stringMatching(/^could not go back: /),
  ]);
  const [entry] = await runtime.db.select().from(log);
  expect(entry!.text).toMatch(
    /^1 file went back to where it was .*; .* could not: its clip stays together: .* \(and 1 other\)\.$/,
  );
});

test('of two files that cannot be told from one another neither is moved', async () => {
  lay('Card', ['T1', 'T2']);
  for (const f of Object.keys(tree())) utimesSync(path.join(s.shelf, f), 1000, 1000);
  const ids = await storeShelved(runtime, 'Card');
  await apply();
  await give(ids, { T1: 'B001_002', T2: 'B001_003' });
  const plan = await apply(listed);
  await loseDatabase();
  // What was the second clip's is gone, and what is at its old place is the first's.
  rmSync(path.join(s.shelf, 'B001/B001_003.XML'));
  const before = tree();
  const changes = await journalChanges(runtime);
  expect(changes).toEqual([]);
  await expect(undoFromJournal(runtime, plan)).rejects.toThrow('nothing can be taken back');
  expect(tree()).toEqual(before);
});

const onExfat = mayMountExfat() ? test : test.skip;
onExfat('on a volume that ignores case, a name that differs in letters only goes back once', async () => {
  const drives = new RealMounts();
  try {
    const drive = drives.exfat('DRIVE');
    const root = await addRoot(runtime, { kind: 'shelf', path: drive });
    lay('B001', ['t1'], drive);
    const ids = await storeShelved(runtime, 'B001', { root: root.id });
    await give(ids, { t1: 'T1' });
    await apply(listed, root.id);
    await loseDatabase();
    await addRoot(runtime, { kind: 'shelf', path: drive });
    const [change] = await journalChanges(runtime);
    expect(await undoFromJournal(runtime, change!.plan)).toEqual({ files: 2, failed: [] });
    expect(readdirSync(path.join(drive, 'B001')).sort()).toEqual(['t1.MP4', 't1.XML']);
    expect(await journalChanges(runtime)).toEqual([]);
  } finally {
    drives.end();
  }
});
