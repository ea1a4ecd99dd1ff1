import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { openLibrary, RecordsWriter } from '../records';
import { openRuntime } from '../runtime';
import { beginJob, jobByCode } from '../jobs/jobs';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-home-'));
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
