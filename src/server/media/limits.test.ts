import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { chmodSync, closeSync, constants, copyFileSync, mkdtempSync, openSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { rate } from '../../core/timecode/rate';
import { put } from '../testing/media';
import { probe, probeLimits } from './probe';
import { readFirst, readStatements } from './readFamily';
import { endReaders, readContainers, readLimits, warmReaders } from './readPool';

// Readers that hang: on a drive that has gone (a pipe nobody writes to is one, as far as a reader can tell), in a loop, or for good.

let dir: string;
let whole: string;
const before = { read: readLimits.milliseconds, probe: probeLimits.milliseconds, program: process.env.FFPROBE_PATH };
const options = { zoneMinutes: 0, jobRate: rate(25) };
const clip = (file: string) => ({ kind: 'video' as const, files: [{ role: 'original' as const, file, size: 1000, modified: 0 }] });

beforeAll(async () => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-limits-'));
  whole = path.join(dir, 'whole.MP4');
  const card = path.join(process.env.SORT_SHELF_FOOTAGE!, 'drawer');
  const film = readdirSync(card, { recursive: true, encoding: 'utf8' }).find((f) => /B00\d.*\.MP4$/.test(f))!;
  copyFileSync(path.join(card, film), whole);
  await warmReaders();
});
afterEach(() => {
  Object.assign(readLimits, { milliseconds: before.read });
  Object.assign(probeLimits, { milliseconds: before.probe });
  if (before.program === undefined) delete process.env.FFPROBE_PATH;
  else process.env.FFPROBE_PATH = before.program;
});
afterAll(async () => {
  await endReaders();
  rmSync(dir, { recursive: true, force: true });
});

describe('a reading thread that hangs', () => {
  test('is given up when its time is over; its file is marked, the others of its batch and those after it are read', async () => {
    const stuck = path.join(dir, 'stuck.MP4');
    execFileSync('mkfifo', [stuck]);
    readLimits.milliseconds = 4000;
    try {
      const said = await readContainers([whole, stuck, whole], options);
      expect(said[1]).toMatchObject({ title: 'Unreadable', message: expect.stringContaining('it took longer than 4 s to read') });
      for (const i of [0, 2]) expect(said[i]).toMatchObject({ askProbe: false });
      expect((await readContainers([whole], options))[0]).toMatchObject({ askProbe: false });
    } finally {
      // Lets the threads that wait at the pipe go.
      closeSync(openSync(stuck, constants.O_RDWR | constants.O_NONBLOCK));
    }
  });

  test('the time a file waits for a thread does not count', async () => {
    const pipes = ['p1.MP4', 'p2.MP4'].map((name) => path.join(dir, name));
    execFileSync('mkfifo', pipes);
    readLimits.milliseconds = 4000;
    try {
      const said = await Promise.all([...pipes, whole].map((file) => readContainers([file], options)));
      expect(said.map(([s]) => s instanceof Error)).toEqual([true, true, false]);
    } finally {
      for (const pipe of pipes) closeSync(openSync(pipe, constants.O_RDWR | constants.O_NONBLOCK));
    }
  });
});

describe('ffprobe that hangs', () => {
  const program = (body: string): void => {
    const file = put(path.join(dir, `probe-${Math.random()}`), `#!/bin/sh\n${body}\n`);
    chmodSync(file, 0o755);
    process.env.FFPROBE_PATH = file;
  };

  test('is ended when its time is over, and says of which file', async () => {
    program('exec sleep 1000');
    probeLimits.milliseconds = 400;
    await expect(probe(whole)).rejects.toThrow('whole.MP4 cannot be read: it took longer than 0.4 s to read');
  });

  test('is killed where it does not want to end', async () => {
    program('trap "" TERM\nwhile :; do sleep 0.1; done');
    probeLimits.milliseconds = 300;
    await expect(probe(whole)).rejects.toMatchObject({ title: 'Unreadable' });
  });

  test.each([['dies', 'kill -9 $$'], ['writes nonsense', 'echo "{]"'], ['writes something else', 'echo "[1, 2]"'], ['writes nothing', 'true']])('where it %s, the clip is marked and nothing is thrown at the batch', async (_, body) => {
    program(body);
    const odd = put(path.join(dir, 'odd.AVI'), Buffer.concat([Buffer.from('RIFF\0\0\0\0AVI ', 'latin1'), Buffer.alloc(988)]));
    const reading = await readStatements(clip(odd), { zoneMinutes: 0, stillsRate: 25 });
    expect(reading.fault).toMatch(/odd\.AVI/);
    expect((await readFirst(clip(whole), { zoneMinutes: 0, stillsRate: 25 })).rest.probe).toBe(false);
  });
});
