import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  realpathSync,
  renameSync,
  rmSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { openLibrary, RecordsWriter } from '../records';
import { rootViews } from '../places';
import { openRuntime } from '../runtime';
import { beginJob, jobByCode } from '../jobs/jobs';

let dir: string;
beforeAll(() => {
  dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-home-')));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

test('a data folder that goes away is said, nothing is written in its place, and what was kept is there afterwards', async () => {
  const home = path.join(dir, 'home');
  const away = path.join(dir, 'away');
  const open = () => openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
  const before = await open();
  await beginJob(before, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
  await before.keepNow();
  await expect(before.checkHome()).resolves.toBeUndefined();

  renameSync(home, away);
  await expect(before.checkHome()).rejects.toThrow(`The data folder ${home} is no longer there`);
  await expect(before.keepNow()).rejects.toThrow('is no longer there');
  expect(existsSync(home)).toBe(false);
  // Another folder in its place is not it.
  mkdirSync(home);
  await expect(before.checkHome()).rejects.toThrow('is no longer there');
  // A record that was being gathered when it went is not written there.
  await new RecordsWriter(before, await openLibrary(before.db, false)).write();
  expect(readdirSync(home)).toEqual([]);
  rmSync(home, { recursive: true });
  // What was open of it does not come back with it.
  renameSync(away, home);
  await expect(before.checkHome()).rejects.toMatchObject({ status: 503, about: { file: home } });
  await before.close();

  const after = await open();
  await expect(jobByCode(after, 'SLW')).resolves.toMatchObject({ name: 'Slack Water' });
  await expect(after.checkHome()).resolves.toBeUndefined();
  await after.close();
});

test('a data folder that is moved has its shelf with it; a copy of it works with its own, and never with that of the one it was copied from', async () => {
  const [first, copy, moved] = ['first', 'copy', 'moved'].map((name) => path.join(dir, name)) as [
    string,
    string,
    string,
  ];
  const placesIn = async (home: string): Promise<{ id: string; path: string; present: boolean }[]> => {
    const runtime = await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
    try {
      return (await rootViews(runtime)).map(({ id, path: at, present }) => ({ id, path: at, present }));
    } finally {
      await runtime.close();
    }
  };
  const within = (home: string) =>
    ['shelf', 'proxies', 'handover'].map((id) => ({ id, path: path.join(home, id), present: true }));
  expect(await placesIn(first)).toEqual(within(first));
  cpSync(first, copy, { recursive: true });
  expect(await placesIn(copy)).toEqual(within(copy));
  expect(await placesIn(first)).toEqual(within(first));
  renameSync(first, moved);
  expect(await placesIn(moved)).toEqual(within(moved));
  expect(await placesIn(copy)).toEqual(within(copy));
  // Put back, it is there again.
  renameSync(moved, first);
  expect(await placesIn(first)).toEqual(within(first));
});
