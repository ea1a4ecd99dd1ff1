import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { FFMPEG } from '../platform/media/tools';
import { clipViews } from '../cards/clipViews';
import { takeIn } from '../intake/takeIn';
import { beginJob } from '../jobs/jobs';
import { requireJob } from '../jobs/requireJob';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';

// Rates below one, of zero, absurd or missing: each such clip says what it can, and none holds up another.

let s: TestShelf;
const at = (name: string): string => path.join(s.shelf, 'Card', name);
const ffmpeg = (...args: string[]) => execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args]);
const picture = (rate: string, frames: number) => [
  '-f',
  'lavfi',
  '-i',
  `testsrc2=size=160x120:rate=${rate}`,
  '-frames:v',
  String(frames),
];

/** Writes a number in place of another behind the name of a box of MP4. */
function patch(file: string, box: string, offset: number, value: number): void {
  const bytes = readFileSync(file);
  const found = bytes.indexOf(box);
  expect(found).toBeGreaterThan(0);
  bytes.writeUInt32BE(value, found + offset);
  writeFileSync(file, bytes);
}

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  mkdirSync(path.join(s.shelf, 'Card'));
  for (const n of [1, 2, 3]) makeClip(at(`GOOD${n}.MP4`), { frames: 25 });
  ffmpeg(...picture('1/3', 4), '-metadata', 'creation_time=2026-05-06T14:22:05Z', at('SLOW.MP4'));
  ffmpeg(...picture('1/100', 3), at('SLOWER.MKV'));
  ffmpeg(...picture('2000', 40), at('FAST.MP4'));
  ffmpeg(...picture('25', 1), at('ONE.MP4'));
  ffmpeg(...picture('25', 4), '-c:v', 'mjpeg', at('AVI.AVI'));
  const uneven = ['-vf', "select='lt(n,20)+not(mod(n,3))'", '-vsync', 'vfr'];
  ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=160x120:rate=30:duration=2', ...uneven, at('VARIES.MP4'));
  // A clock of 4 294 967 295 ticks a second, one tick a frame; a clock of none; frames that last no time.
  for (const [name, box, offset, value] of [
    ['TICKS.MP4', 'mdhd', 16, 0xffffffff],
    ['NOCLOCK.MP4', 'mdhd', 16, 0],
    ['NOTIME.MP4', 'stts', 16, 0],
    ['LONG.MP4', 'stts', 16, 0x7fffffff],
  ] as const)
    patch(makeClip(at(name), { frames: 25, audio: [] }), box, offset, value);
});
afterAll(() => s.close());

test('every clip is read or says why not, and none waits', async () => {
  await takeIn(s.runtime, {
    root: 'shelf',
    path: 'Card',
    cards: [{ folder: '', camera: 'A', cardId: 'A001', day: 1, date: null }],
  });
  await s.runtime.queue.drain();
  const views = await clipViews(s.runtime);
  const said = Object.fromEntries(
    views.map((v) => [v.original, [v.state, v.rate && `${v.rate.num}/${v.rate.den}`, v.frames]]),
  );
  expect(said).toEqual({
    GOOD1: ['read', '25/1', 25],
    GOOD2: ['read', '25/1', 25],
    GOOD3: ['read', '25/1', 25],
    SLOW: ['read', '1/3', 4],
    SLOWER: ['read', '1/100', 2],
    FAST: ['read', '2000/1', 40],
    ONE: ['read', '25/1', 1],
    AVI: ['read', '25/1', 4],
    VARIES: ['read', expect.anything(), 33],
    NOTIME: ['read', '25/1', 25],
    TICKS: ['read', null, 25],
    NOCLOCK: ['read', null, 25],
    LONG: ['read', null, 25],
  });
  const varies = views.find((v) => String(v.original) === 'VARIES')!;
  expect(varies.problems.map((p) => p.text)).toContainEqual(
    expect.stringMatching(/^The frame rate varies from 10 to 30, [\d.]+ on average/),
  );
  // None of them is the rate of the edit, nor has a timecode that no clock can count.
  expect((await requireJob(s.runtime)).rate).toEqual({ num: 25, den: 1 });
  expect(views.flatMap((v) => (v.start === null ? [] : [v.original])).sort()).toEqual([
    'GOOD1',
    'GOOD2',
    'GOOD3',
    'NOTIME',
  ]);
});
