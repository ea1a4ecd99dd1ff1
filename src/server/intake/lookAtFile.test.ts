import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  copyFileSync,
  mkdirSync,
  readdirSync,
  realpathSync,
  renameSync,
  rmSync,
  truncateSync,
  utimesSync,
} from 'node:fs';
import path from 'node:path';
import { lookLimits } from '../platform/media/probe';
import { previewLimits } from '../viewing/preview';
import { FFMPEG } from '../platform/media/tools';
import { makeClip, put, type TestShelf, testShelf, TEST_JOB } from '../testing/media';
import { beginJob } from '../jobs/jobs';
import type { FirstLook } from '../../core/intake';
import { firstLook, look } from './look';
import { factsOf, playable, stripOf } from './lookAtFile';
import { addRoot } from '../places/roots';

// What the person sees of a file on a card before anything is stored.

let s: TestShelf;
let card: string;
let root: string;
const of = (p: string) => ({ root, path: p });
const encoders = (): string[] => {
  try {
    return execFileSync('pgrep', ['-f', '-P', String(process.pid), 'empty_moov'], { encoding: 'utf8' })
      .split('\n')
      .filter(Boolean);
  } catch {
    return [];
  }
};

beforeAll(async () => {
  s = await testShelf();
  card = path.join(s.dir, 'card');
  makeClip(path.join(card, 'CLIP', 'T0001.MP4'), {
    frames: 50,
    start: '10:00:00:00',
    created: '2026-05-05T10:00:00Z',
  });
  // Long enough that its preview never fits a pipe: an encoder that nobody reads from is still there when it is counted.
  makeClip(path.join(card, 'CLIP', 'T0002.MOV'), {
    frames: 300,
    codec: ['-c:v', 'prores_ks', '-pix_fmt', 'yuv422p10le'],
  });
  makeClip(path.join(card, 'CLIP', 'T0003.MP4'), { frames: 50 });
  truncateSync(path.join(card, 'CLIP', 'T0003.MP4'), 9000);
  put(path.join(card, 'CLIP', 'notes.txt'), 'words');
  execFileSync(FFMPEG(), [
    '-v',
    'error',
    '-f',
    'lavfi',
    '-i',
    'sine=duration=2:sample_rate=48000',
    '-c:a',
    'pcm_s24le',
    path.join(card, 'CLIP', 'S01.WAV'),
  ]);
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  root = (await addRoot(s.runtime, { kind: 'source', path: realpathSync(card) })).id;
});
afterAll(() => s.close());

describe('a card by its names alone', () => {
  test('has the clips it is shown with later, nothing of them looked into yet', async () => {
    put(path.join(card, 'CLIP', 'T0004.MP4'), 'words, whatever the name says');
    const first = await firstLook(s.runtime, root, '');
    const full = await look(s.runtime, root, '');
    rmSync(path.join(card, 'CLIP', 'T0004.MP4'));
    const stems = (of: FirstLook['cards']) => of.map((c) => c.clips.map((clip) => clip.stem).sort());
    expect(stems(first.cards)).toEqual([['S01', 'T0001', 'T0002', 'T0003', 'T0004']]);
    expect(stems(full.cards)).toEqual([['S01', 'T0001', 'T0002', 'T0003']]);
    expect(first.cards[0]!.shape).toEqual(full.cards[0]!.shape);
    const known = new Set(full.cards[0]!.clips.map((c) => c.path));
    expect(first.cards[0]!.clips.filter((c) => known.has(c.path))).toEqual(full.cards[0]!.clips);
  });

  test('of a folder that is not there says so', () =>
    expect(firstLook(s.runtime, root, 'NOWHERE')).rejects.toThrow(/NOWHERE.*is no longer there/));
});

describe('what a file says', () => {
  test('a clip: length, rate, timecode, time, picture, sound', async () => {
    expect(await factsOf(s.runtime, of('CLIP/T0001.MP4'))).toEqual({
      seconds: 2,
      rate: { num: 25, den: 1 },
      start: '10:00:00:00',
      recordedAt: '2026-05-05T10:00:00',
      codec: 'H.264',
      width: 320,
      height: 180,
      channels: 2,
      fault: null,
    });
  });

  test('a sound recording is as long as its samples', async () => {
    expect(await factsOf(s.runtime, of('CLIP/S01.WAV'))).toMatchObject({
      seconds: 2,
      rate: null,
      channels: 1,
      fault: null,
    });
  });

  test('one cut short says so and throws nothing', async () => {
    const { fault } = await factsOf(s.runtime, of('CLIP/T0003.MP4'));
    expect(fault).toMatch(/^T0003\.MP4 (is cut short|has no index)/);
    await expect(stripOf(s.runtime, of('CLIP/T0003.MP4'))).rejects.toMatchObject({ title: 'Unreadable' });
    await expect(playable(s.runtime, of('CLIP/T0003.MP4'))).rejects.toMatchObject({ title: 'Unreadable' });
  });

  test('what is no footage, or leads out of the card, is refused', async () => {
    await expect(factsOf(s.runtime, of('CLIP/notes.txt'))).rejects.toThrow(
      'notes.txt is not footage according to the list of file types',
    );
    await expect(factsOf(s.runtime, of('../home/server.MP4'))).rejects.toMatchObject({ title: 'Refused' });
  });
});

describe('its pictures', () => {
  test('a filmstrip is made once, and anew when the file is another', async () => {
    const strip = await stripOf(s.runtime, of('CLIP/T0001.MP4'));
    expect([strip[0], strip[1]]).toEqual([0xff, 0xd8]);
    const kept = () => readdirSync(path.join(s.runtime.home, 'cache', 'looks'));
    expect(kept()).toHaveLength(1);
    expect(Buffer.from(await stripOf(s.runtime, of('CLIP/T0001.MP4'))).equals(Buffer.from(strip))).toBe(true);
    expect(kept()).toHaveLength(1);
    const later = new Date('2026-05-09T00:00:00Z');
    utimesSync(path.join(card, 'CLIP', 'T0001.MP4'), later, later);
    await stripOf(s.runtime, of('CLIP/T0001.MP4'));
    expect(kept()).toHaveLength(2);
    expect(kept().filter((n) => n.includes('.part'))).toEqual([]);
  });

  test('a sound has none', () =>
    expect(stripOf(s.runtime, of('CLIP/S01.WAV'))).rejects.toThrow('has no picture'));
});

describe('playing it', () => {
  test('what a browser plays is played as it is', async () => {
    expect(await playable(s.runtime, of('CLIP/T0001.MP4'))).toEqual({
      file: path.join(realpathSync(card), 'CLIP', 'T0001.MP4'),
      type: 'video/mp4',
    });
    expect(await playable(s.runtime, of('CLIP/S01.WAV'))).toMatchObject({ type: 'audio/wav' });
  });

  test('anything else is made into fragments as it plays; a player that is closed leaves no encoder behind', async () => {
    const played = await playable(s.runtime, of('CLIP/T0002.MOV'));
    if (!('preview' in played)) throw new Error('it was to be a preview');
    const source = await played.preview();
    expect(Buffer.from((await source.next())!).toString('latin1', 4, 8)).toBe('ftyp');
    source.close();
    for (let n = 0; n < 100 && encoders().length > 0; n++) await new Promise((r) => setTimeout(r, 20));
    expect(encoders()).toEqual([]);
  });
});

describe('previews', () => {
  const begin = async () => {
    const played = await playable(s.runtime, of('CLIP/T0002.MOV'));
    if (!('preview' in played)) throw new Error('it was to be a preview');
    return played.preview();
  };
  const gone = async () => {
    for (let n = 0; n < 100 && encoders().length > 0; n++) await new Promise((r) => setTimeout(r, 20));
    return encoders();
  };
  afterEach(() => {
    Object.assign(previewLimits, { most: 4, idle: 120_000 });
  });

  test('so many run at once: of more, the one that was read longest ago is ended', async () => {
    previewLimits.most = 2;
    const all = [await begin(), await begin()];
    expect(encoders().length).toBe(2);
    all.push(await begin());
    for (let n = 0; n < 100 && encoders().length > 2; n++) await new Promise((r) => setTimeout(r, 20));
    expect(encoders().length).toBe(2);
    for (const one of all) one.close();
    expect(await gone()).toEqual([]);
  });

  test('one that nobody reads is ended', async () => {
    previewLimits.idle = 300;
    await begin();
    expect(encoders().length).toBe(1);
    expect(await gone()).toEqual([]);
  });
});

describe('the card pulled while it is looked at', () => {
  test('a file that has gone is named, with what to do', async () => {
    rmSync(path.join(card, 'CLIP', 'T0002.MOV'));
    await expect(factsOf(s.runtime, of('CLIP/T0002.MOV'))).rejects.toMatchObject({
      title: 'Not found',
      message: 'T0002.MOV is no longer there.',
      about: { next: 'Put the card back, or look at the folder again.' },
    });
  });

  test('a card that has gone is named; put back, it is read again', async () => {
    renameSync(card, `${card}-out`);
    await expect(stripOf(s.runtime, of('CLIP/T0001.MP4'))).rejects.toThrow(
      /The folder of “card” is not there/,
    );
    mkdirSync(card);
    await expect(stripOf(s.runtime, of('CLIP/T0001.MP4'))).rejects.toThrow('T0001.MP4 is no longer there');
    rmSync(card, { recursive: true });
    renameSync(`${card}-out`, card);
    expect((await factsOf(s.runtime, of('CLIP/T0001.MP4'))).seconds).toBe(2);
  });
});

test('a file that takes for ever to read holds up neither the look nor what is said of the others', async () => {
  const before = { ...lookLimits };
  const program = process.env.FFPROBE_PATH;
  const mxf = { codec: ['-c:v', 'mpeg2video', '-pix_fmt', 'yuv422p'], size: '720x576', audio: [] };
  for (const n of ['0001', '0002']) makeClip(path.join(card, 'unclosed', `A${n}.MXF`), { ...mxf, frames: 5 });
  // Of two that are as large as files get on a card the second may go on from the first.
  const stream = (n: number) => path.join(card, 'streams', 'DCIM', '100SKRRY', `SKRY000${n}.TS`);
  makeClip(stream(1), { ...mxf, frames: 5 });
  copyFileSync(stream(1), stream(2));
  makeClip(path.join(card, 'unclosed', 'A0003.MP4'), { frames: 5, created: '2026-05-05T10:00:00Z' });
  process.env.FFPROBE_PATH = put(path.join(s.dir, 'slow-ffprobe'), '#!/bin/sh\nexec sleep 1000\n');
  chmodSync(process.env.FFPROBE_PATH, 0o755);
  Object.assign(lookLimits, { take: 300, suggestion: 300 });
  try {
    const { cards } = await look(s.runtime, root, 'unclosed');
    expect(cards[0]!.clips.map((c) => c.stem)).toEqual(['A0001', 'A0002', 'A0003']);
    expect(cards[0]!.suggestion.date.value).toBe('2026-05-05');
    const [streams] = (await look(s.runtime, root, 'streams')).cards;
    expect(streams!.clips.map((c) => c.stem)).toEqual(['SKRY0001', 'SKRY0002']);
    expect(streams!.doubts).toEqual([
      'SKRY0001.TS cannot be read: it took longer than 0.3 s to read (1 other likewise). It is not known whether they are parts of longer takes, so each stays a clip of its own',
    ]);
  } finally {
    Object.assign(lookLimits, before);
    if (program === undefined) delete process.env.FFPROBE_PATH;
    else process.env.FFPROBE_PATH = program;
  }
}, 40_000);
