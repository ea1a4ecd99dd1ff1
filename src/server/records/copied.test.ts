import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { WatchOptions } from '../../core/watch';
import { cameras } from '../cards/tables';
import { changeChoice, choiceSet } from '../choose';
import { beginJob, jobByCode, saveSettings } from '../jobs';
import { jobs } from '../jobs/tables';
import { addRoot, listRoots } from '../places';
import { TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { watchFolder, watchViews } from '../watch';
import { beginFromCopy, copiedJobs } from './copied';
import { findRecords } from './find';

let s: TestShelf;
let original: string;
const ofPlace = (folder: string) => path.join(folder, '.sort-shelf');
const recordsIn = (folder: string) =>
  readdirSync(ofPlace(folder))
    .filter((n) => n.startsWith('records-'))
    .sort();
const headerIn = (folder: string, name: string) =>
  JSON.parse(readFileSync(path.join(ofPlace(folder), name), 'utf8').split('\n')[0]!) as { root: string };
const copyTo = (name: string): string => {
  const to = path.join(s.dir, name);
  cpSync(original, to, { recursive: true });
  return to;
};
const placeAt = async (at: string) => (await listRoots(s.runtime)).find((r) => r.path === at);

beforeAll(async () => {
  s = await testShelf({ kept: true });
  await beginJob(
    s.runtime,
    { name: 'Slack Water', code: 'SLW', zoneMinutes: 120, cameras: [{ label: 'A', model: 'Corvane C8' }] },
    TEST_JOB,
  );
  original = path.join(realpathSync(s.dir), 'jobs', 'Slack Water');
  mkdirSync(path.join(original, 'SLW', 'New'), { recursive: true });
  writeFileSync(path.join(original, 'SLW', 'notes.txt'), 'mine');
  const place = await addRoot(s.runtime, { kind: 'shelf', path: original });
  const job = await jobByCode(s.runtime, 'SLW');
  await saveSettings(s.runtime, {
    dayStart: 6,
    convention: { ...job.convention, name: 'Ours' },
    folderPlan: { ...job.folderPlan, root: place.id, skeleton: ['{job}/Sound'] },
  });
  await changeChoice(s.runtime, { do: 'addBin', name: 'People', parent: null, clips: [] });
  await changeChoice(s.runtime, { do: 'saveSearch', name: 'Fast', query: 'rate over edit' });
  await watchFolder(s.runtime, { root: place.id, path: 'SLW/New', options: { bins: false } });
  await s.runtime.keepNow();
});
afterAll(() => s.close());

test('a job’s folder that was copied whole begins another job, which is told what the first was told then', async () => {
  const at = copyTo('jobs/Ebb');
  // What the first is told after that is not of the copy.
  await saveSettings(s.runtime, { dayStart: 3 });
  expect(await copiedJobs(at)).toMatchObject({ jobs: [{ id: TEST_JOB, name: 'Slack Water', code: 'SLW' }] });
  const begun = await beginFromCopy(s.runtime, { name: 'Ebb', code: 'EBB', from: TEST_JOB, folder: at });
  expect(begun).toEqual({ code: 'EBB', root: expect.any(String), warnings: [] });
  const job = await jobByCode(s.runtime, 'EBB');
  const place = (await placeAt(at))!;
  expect(job).toMatchObject({
    name: 'Ebb',
    dayStart: 6,
    zoneMinutes: 120,
    convention: { name: 'Ours' },
    folderPlan: { root: place.id, skeleton: ['{job}/Sound'] },
  });
  const r = s.runtime.inJob(job.id);
  expect(await choiceSet(r.db, job.id)).toEqual(await choiceSet(r.db, TEST_JOB));
  expect(
    (await r.db.select().from(cameras).where(eq(cameras.job, job.id))).map((c) => [c.label, c.model]),
  ).toEqual([['A', 'Corvane C8']]);
  // The folder is called as it was copied.
  expect((await watchViews(r)).map((w) => [w.path, w.options])).toEqual([
    ['SLW/New', WatchOptions.parse({ bins: false })],
  ]);
  expect(existsSync(path.join(at, 'EBB', 'Sound'))).toBe(true);
  expect(readFileSync(path.join(at, 'SLW', 'notes.txt'), 'utf8')).toBe('mine');
});

test('the copy is a place of its own: the first is where it was, also for whoever looks for records', async () => {
  const at = path.join(s.dir, 'jobs', 'Ebb');
  const [copy, first] = [(await placeAt(at))!, (await placeAt(original))!];
  expect(copy.mark).not.toBe(first.mark);
  await s.runtime.keepNow();
  const [own, kept, ...rest] = recordsIn(at);
  expect(rest).toEqual([]);
  expect([own, kept].map((n) => headerIn(at, n!).root).sort()).toEqual([copy.id, first.id].sort());
  const { found } = await findRecords(s.runtime.home, []);
  const places = found.flatMap((f) => f.places).filter((p) => [copy.id, first.id].includes(p.root));
  expect(places.sort((a, b) => a.path.localeCompare(b.path))).toEqual([
    { root: copy.id, path: at },
    { root: first.id, path: original },
  ]);
});

test('a copied folder that is added on Places, too, gets records of its own', async () => {
  const at = copyTo('jobs/Added');
  // Written before this run of the server: such a file is gone on with.
  const [file] = recordsIn(at).map((n) => path.join(ofPlace(at), n)) as [string];
  writeFileSync(file, readFileSync(file, 'utf8').replaceAll(/"upTo":\d+/g, '"upTo":1'));
  const added = await addRoot(s.runtime, { kind: 'shelf', path: at });
  await s.runtime.keepNow();
  expect(recordsIn(at).map((n) => headerIn(at, n).root)).toEqual([added.id]);
});

test('it begins also where the first is offline, or of another data folder', async () => {
  const at = copyTo('jobs/Neap');
  renameSync(original, `${original} away`);
  try {
    const begun = await beginFromCopy(s.runtime, { name: 'Neap', code: 'NEA', from: TEST_JOB, folder: at });
    expect(begun).toEqual({ code: 'NEA', root: expect.any(String), warnings: [] });
    expect((await placeAt(original))?.mark).not.toBe((await placeAt(at))!.mark);
  } finally {
    renameSync(`${original} away`, original);
  }
  await s.runtime.keepNow();
  const elsewhere = await testShelf({ kept: true });
  try {
    const there = path.join(elsewhere.dir, 'Neap');
    cpSync(original, there, { recursive: true });
    const begun = await beginFromCopy(elsewhere.runtime, {
      name: 'Neap',
      code: 'NEA',
      from: TEST_JOB,
      folder: there,
    });
    expect(begun).toEqual({ code: 'NEA', root: expect.any(String), warnings: [] });
    const place = (await listRoots(elsewhere.runtime)).find((r) => r.path === there)!;
    expect(place.mark).not.toBe((await placeAt(original))!.mark);
    expect(recordsIn(there).some((n) => n.includes('.copied-'))).toBe(true);
  } finally {
    await elsewhere.close();
  }
});

test('what is no copy of a job’s folder, or is damaged, begins nothing', async () => {
  const before = { jobs: await s.runtime.db.$count(jobs), roots: (await listRoots(s.runtime)).length };
  const none = { jobs: [], at: null };
  const bare = path.join(s.dir, 'bare');
  mkdirSync(bare);
  expect(await copiedJobs(bare)).toEqual(none);
  expect(await copiedJobs(path.join(s.dir, 'nowhere'))).toEqual(none);
  const linked = path.join(s.dir, 'linked');
  mkdirSync(linked);
  symlinkSync(ofPlace(original), ofPlace(linked));
  expect(await copiedJobs(linked)).toEqual(none);
  const begin = (folder: string, from = TEST_JOB) =>
    beginFromCopy(s.runtime, { name: 'No', code: 'NO', from, folder });
  await expect(begin(bare)).rejects.toMatchObject({ title: 'Not found' });
  const damaged = copyTo('damaged');
  const [file] = recordsIn(damaged).map((n) => path.join(ofPlace(damaged), n)) as [string];
  const lines = readFileSync(file, 'utf8').split('\n');
  writeFileSync(file, [lines[0], '{"torn', ...lines.slice(1)].join('\n'));
  await expect(copiedJobs(damaged)).rejects.toThrow(/line 2 cannot be read/);
  // Rows that the database does not take.
  const odd = lines.map((l) => l.replaceAll(/"day_start": [36]/g, '"day_start": "never"'));
  expect(odd).not.toEqual(lines);
  writeFileSync(file, odd.join('\n'));
  await expect(begin(damaged)).rejects.toThrow(/cannot be taken from its records/);
  // A code that is taken.
  const twice = copyTo('twice');
  await expect(
    beginFromCopy(s.runtime, { name: 'Again', code: 'ebb', from: TEST_JOB, folder: twice }),
  ).rejects.toMatchObject({ title: 'Clash' });
  await expect(begin(original)).rejects.toThrow(/is a place already/);
  expect({ jobs: await s.runtime.db.$count(jobs), roots: (await listRoots(s.runtime)).length }).toEqual(
    before,
  );
  rmSync(damaged, { recursive: true });
});
