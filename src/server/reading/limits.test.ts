import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { chmodSync, copyFileSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { CardShape } from '../../core/intake/shape';
import { DEFAULT_INTAKE } from '../../core/intake/rules';
import { LIGHT } from '../../core/proxies/recipe';
import { rate } from '../../core/platform/timecode/rate';
import { openSource } from '../transfer/disk';
import { hashFile, sampleOf } from '../platform/files/hash';
import { plainSource } from '../testing/plainSource';
import { put } from '../testing/media';
import { frameAsJpeg } from '../viewing/frames';
import { samplePictures } from '../analysis';
import { makeProxy } from '../proxies/proxy';
import { proxyLimits } from '../proxies/run';
import { probe, probeLimits, readSidecar, sniff } from '../platform/media/probe';
import { readStatements } from './readFamily';
import { endReaders, readFirst, readLimits, recogniseInThread, warmReaders } from './readPool';
import { endTagReader, readTags } from './tagReader';
import { keepFrames } from '../platform/media/tools';

// Readers that hang: on a drive that has gone, in a loop, or for good.

let dir: string;
let whole: string;
const before = {
  proxy: proxyLimits.milliseconds,
  read: readLimits.milliseconds,
  script: readLimits.script,
  probe: probeLimits.milliseconds,
  program: process.env.FFPROBE_PATH,
};
const options = { zoneMinutes: 0, stillsRate: 25, jobRate: rate(25) };
const clip = (file: string) => ({
  kind: 'video' as const,
  files: [{ role: 'original' as const, file, size: statSync(file).size, modified: 0 }],
});

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
  await Promise.all([endReaders(), endTagReader()]);
  rmSync(dir, { recursive: true, force: true });
});

describe('a reading thread that hangs', () => {
  beforeAll(async () => {
    await endReaders();
    readLimits.script = 'src/server/testing/stuckThread.mjs';
    await warmReaders();
  });
  afterAll(async () => {
    await endReaders();
    readLimits.script = before.script;
  });
  const stuck = () => put(path.join(dir, 'stuck.MP4'), Buffer.alloc(1000));

  test('is ended when its time is over; its clip is marked, the others of its batch and those after it are read', async () => {
    readLimits.milliseconds = 2000;
    const said = await readFirst([clip(whole), clip(stuck()), clip(whole)], options);
    expect(said.map((r) => r.fault)).toEqual([
      null,
      'stuck.MP4 cannot be read: it took longer than 2 s to read',
      null,
    ]);
    expect((await readFirst([clip(whole)], options))[0]).toMatchObject({
      fault: null,
      rest: { probe: false },
    });
  });

  test('the time a file waits for a thread does not count', async () => {
    readLimits.milliseconds = 2000;
    const said = await Promise.all([stuck(), stuck(), whole].map((file) => readFirst([clip(file)], options)));
    expect(said.map(([r]) => r!.fault !== null)).toEqual([true, true, false]);
  });

  test('over what stands beside a clip, the clip is read all the same, and that is said', async () => {
    readLimits.milliseconds = 2000;
    const beside = put(path.join(dir, 'whole-stuck.XML'), '<x/>');
    const [said] = await readFirst(
      [
        {
          ...clip(whole),
          files: [...clip(whole).files, { role: 'sidecar', file: beside, size: 4, modified: 0 }],
        },
      ],
      options,
    );
    expect(said).toMatchObject({
      fault: null,
      notes: ['whole-stuck.XML could not be read: it took longer than 2 s to read'],
    });
    expect(said!.statements.length).toBeGreaterThan(5);
  });
});

describe('patterns of a person’s own that take for ever', () => {
  test('are ended when their time is over; the answer names the shape, and other folders are recognised all the while', async () => {
    readLimits.milliseconds = 1000;
    const shape = CardShape.parse({
      id: 'own',
      name: 'my cards',
      because: 'x',
      marks: ['^(a+)+$'],
      rules: [{ pattern: '^(?<stem>.+)\\.mp4$', role: 'original' }],
    });
    const entries = [{ path: `${'a'.repeat(60)}.MP4`, kind: 'file' as const, size: 1, modified: 0 }];
    const slow = recogniseInThread(entries, { rules: { ...DEFAULT_INTAKE, shapes: [shape] } });
    await expect(slow).rejects.toMatchObject({
      title: 'Refused',
      message: expect.stringContaining('within 3 s') as unknown,
      about: { next: expect.stringContaining('my cards') as unknown },
    });
    readLimits.milliseconds = before.read;
    expect((await recogniseInThread(entries, {})).cards).toHaveLength(1);
  });
});

describe('an FFmpeg', () => {
  const was = process.env.FFMPEG_PATH;
  /** Has a shell script stand for FFmpeg. */
  const stub = (name: string, lines: string): void => {
    process.env.FFMPEG_PATH = put(path.join(dir, name), `#!/bin/sh\n${lines}\n`);
    chmodSync(process.env.FFMPEG_PATH, 0o755);
  };
  const proxyOf = (file: string) =>
    makeProxy([file], path.join(dir, 'out.mp4'), LIGHT, plainSource, {
      signal: new AbortController().signal,
      onProgress: () => undefined,
    });
  beforeAll(keepFrames);
  afterEach(() => {
    proxyLimits.milliseconds = before.proxy;
    if (was === undefined) delete process.env.FFMPEG_PATH;
    else process.env.FFMPEG_PATH = was;
  });

  test('that makes no picture any more is ended, and says so', async () => {
    stub('stuck-ffmpeg', 'while :; do echo frame=7; echo out_time_us=280000; sleep 0.1; done');
    proxyLimits.milliseconds = 1000;
    await expect(proxyOf(whole)).rejects.toThrow(
      'No proxy could be made of whole.MP4: FFmpeg made no picture for 1 s',
    );
  });

  test('that could read a file no further, and ended well, has made nothing that counts', async () => {
    // As FFmpeg does where a volume is pulled: the pictures that lack are black.
    stub(
      'cut-ffmpeg',
      "head -c 64000 /dev/zero\necho 'file:/tmp/shelf-input-x/0.MP4: Input/output error' >&2\nexit 0",
    );
    const clip = { frames: 10, rate: rate(25) };
    const samples = samplePictures(whole, [0, 5, 9], clip);
    await expect(samples).rejects.toThrow('whole.MP4 cannot be read to its end: Input/output error');
    await expect(proxyOf(whole)).rejects.toThrow(
      'whole.MP4: it cannot be read to its end: Input/output error',
    );
  });
});

describe('what is not a regular file', () => {
  test('a pipe, at which an opening waits for ever, is refused at once by every reader', async () => {
    const pipe = path.join(dir, 'pipe.MP4');
    execFileSync('mkfifo', [pipe]);
    expect((await readFirst([clip(pipe)], options))[0]!.fault).toMatch(/pipe\.MP4 .*is not a regular file/);
    for (const read of [
      () => probe(pipe),
      () => sniff(pipe, 0),
      () => readSidecar(pipe, 0),
      () => hashFile(pipe),
      () => sampleOf(pipe, 100),
    ])
      await expect(read()).rejects.toThrow('pipe.MP4 is not a regular file.');
    await expect(readTags(pipe)).rejects.toThrow('pipe.MP4 is not a regular file.');
    await expect(frameAsJpeg(pipe, 0, { rate: rate(25) }, 100)).rejects.toThrow(
      'pipe.MP4 is not a regular file.',
    );
    await expect(openSource(pipe, false)).rejects.toThrow('pipe.MP4 is not a regular file.');
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

  test.each([
    ['dies', 'kill -9 $$'],
    ['writes nonsense', 'echo "{]"'],
    ['writes something else', 'echo "[1, 2]"'],
    ['writes nothing', 'true'],
  ])('where it %s, the clip is marked and nothing is thrown at the batch', async (_, body) => {
    program(body);
    const odd = put(
      path.join(dir, 'odd.AVI'),
      Buffer.concat([Buffer.from('RIFF\0\0\0\0AVI ', 'latin1'), Buffer.alloc(988)]),
    );
    const reading = await readStatements(clip(odd), { zoneMinutes: 0, stillsRate: 25 });
    expect(reading.fault).toMatch(/odd\.AVI/);
    expect((await readFirst([clip(whole)], options))[0]!.rest.probe).toBe(false);
  });
});
