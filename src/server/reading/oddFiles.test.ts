import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chooseFacts, type FieldId, formatValue } from '../../core/facts';
import { FFMPEG } from '../platform/media/tools';
import { readStatements } from './readFamily';
import { endReaders } from './readPool';
import { endTagReader } from './tagReader';

// What real files state in other places than the demonstration's do. Made by FFmpeg; what is expected is what it was told.

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-odd-'));
});
afterAll(async () => {
  await Promise.all([endReaders(), endTagReader()]);
  rmSync(dir, { recursive: true, force: true });
});

const made = (name: string, ...args: string[]): string => {
  const file = path.join(dir, name);
  execFileSync(FFMPEG(), ['-v', 'error', '-y', '-f', 'lavfi', '-i', ...args, file]);
  return file;
};
const facts = async (file: string, kind: 'video' | 'sound' | 'still', ...fields: FieldId[]) => {
  const { size, mtimeMs } = statSync(file);
  const { statements, fault } = await readStatements(
    { kind, files: [{ role: 'original', file, size, modified: mtimeMs }] },
    { zoneMinutes: 0, stillsRate: 25 },
  );
  expect(fault).toBeNull();
  const chosen = chooseFacts(statements);
  return fields.map((f) => {
    const v = chosen.get(f)?.chosen.value;
    return v ? formatValue(v, f) : null;
  });
};
const picture = (size = '320x180', rate = 25) => `testsrc2=s=${size}:r=${rate}:d=1`;

test('a timecode that a track of Matroska has among its tags', async () => {
  const file = made('track.mkv', picture(), '-c:v', 'libx264', '-metadata:s:v', 'timecode=10:00:00:00');
  expect(await facts(file, 'video', 'start', 'rate')).toEqual(['10:00:00:00', '25 fps']);
});

test('the reel in a timecode track', async () => {
  const file = made('reel.mov', picture(), '-timecode', '10:00:00:00', '-metadata:s:v', 'reel_name=A001R1');
  expect(await facts(file, 'video', 'start', 'reel')).toEqual(['10:00:00:00', 'A001R1']);
});

test.each([
  ['tff', 'interlaced, top field first'],
  ['bff', 'interlaced, bottom field first'],
])('interlaced H.264, %s', async (order, scan) => {
  const file = made(
    `${order}.mp4`,
    picture('720x576', 50),
    ...[
      '-vf',
      `interlace=scan=${order}`,
      '-c:v',
      'libx264',
      '-flags',
      '+ilme+ildct',
      '-x264opts',
      `${order}=1`,
    ],
  );
  expect(await facts(file, 'video', 'scan', 'rate', 'frames')).toEqual([scan, '25 fps', '25 frames']);
});

test('timecode of a wave file of 64 bits', async () => {
  const file = made(
    'long.wav',
    'sine=d=1:r=48000',
    ...['-c:a', 'pcm_s24le', '-rf64', 'always', '-write_bext', '1'],
    ...['-metadata', 'time_reference=1728000000', '-metadata', 'origination_date=2026-05-06'],
  );
  expect(await facts(file, 'sound', 'start', 'samples')).toEqual(['10:00:00:00', '48000 samples']);
});

test.each([
  ['deep.png', 'rgb48be', '16 bit', null],
  ['float.exr', 'gbrpf32le', '32 bit', 'float'],
  ['grey.tif', 'gray16le', '16 bit', null],
  ['film.dpx', 'gbrp10be', '10 bit', null],
])('samples of a still: %s', async (name, format, depth, kind) => {
  const file = made(name, picture(), '-frames:v', '1', '-pix_fmt', format);
  expect(await facts(file, 'still', 'bitDepth', 'sampleFormat')).toEqual([depth, kind]);
});
