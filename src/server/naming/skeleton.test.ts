import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { existsSync, lstatSync, mkdirSync, symlinkSync } from 'node:fs';
import path from 'node:path';
import { beginJob } from '../jobs';
import { logView } from '../overview/logbook';
import { put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { storeShelved } from '../testing/shelve';
import { skeleton } from '.';

let s: TestShelf;
beforeEach(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterEach(() => s.close());

const ask = (lines: string[], layOut = false, root: string | null = null) =>
  skeleton(s.runtime, { skeleton: lines, root, layOut });
const at = (...p: string[]) => path.join(s.shelf, ...p);

test('shown first, then created once, and told in the logbook', async () => {
  put(at('In/T1.MP4'), 'a');
  await storeShelved(s.runtime, 'In');
  mkdirSync(at('SLW/Sound'), { recursive: true });
  const lines = ['{job}/Sound', '{job}/Exports/{card}'];
  expect((await ask(lines)).folders).toEqual([
    { folder: 'SLW/Exports/B001', there: false },
    { folder: 'SLW/Sound', there: true },
  ]);
  expect(existsSync(at('SLW/Exports'))).toBe(false);
  expect((await ask(lines, true)).folders.every((f) => f.there)).toBe(true);
  expect(lstatSync(at('SLW/Exports/B001')).isDirectory()).toBe(true);
  expect((await logView(s.runtime)).entries[0]!.text).toBe('1 folder created');
  expect((await ask(lines)).folders.every((f) => f.there)).toBe(true);
});

test('a file in the way, a name that does not fit, a link that leads out and a root that is only read are refused', async () => {
  put(at('Sound'), 'a file');
  await expect(ask(['Sound'], true)).rejects.toThrow('A file has the name of the folder “Sound”');
  await expect(ask(['Sound/More'], true)).rejects.toThrow('or of one above it');
  await expect(ask(['Aux'], true)).rejects.toThrow('device name');
  symlinkSync(s.dir, at('Out'));
  await expect(ask(['Out/x'], true)).rejects.toThrow('goes through a link');
  await expect(ask(['x'], true, 'gone')).rejects.toThrow();
  expect(existsSync(path.join(s.dir, 'x'))).toBe(false);
});

test('lines that would give very many folders are refused before anything is looked for', async () => {
  put(at('In/T1.MP4'), 'a');
  await storeShelved(s.runtime, 'In');
  const lines = Array.from({ length: 2001 }, (_, i) => `{card}/${i}`);
  await expect(ask(lines, true)).rejects.toThrow('These lines give 2001 folders');
  expect(existsSync(at('B001'))).toBe(false);
});
