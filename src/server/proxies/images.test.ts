import { afterAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, realpathSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { NO_TAGS } from '../../core/proxies/source';
import { rate } from '../../core/platform/timecode/rate';
import { FFMPEG } from '../platform/media/tools';
import { makeImages } from './images';

// Images are the frames they are said to be, of streams in which FFmpeg finds no place by itself; FFmpeg's own decoding of all of them says which.

const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-images-')));
afterAll(() => rmSync(dir, { recursive: true }));
const FRAMES = 60;
const ffmpeg = (...args: string[]): string =>
  execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
/** MD5 of each picture. */
const md5s = (...args: string[]): string[] =>
  ffmpeg(...args, '-fps_mode', 'passthrough', '-f', 'framemd5', '-')
    .split('\n')
    .filter((line) => line !== '' && !line.startsWith('#'))
    .map((line) => line.split(',').at(-1)!.trim());
const how = {
  source: {
    ...{
      matrix: 'bt709',
      pixelAspect: null,
      rotation: 0,
      scan: 'progressive' as const,
      rate: rate(25),
      varies: false,
    },
    ...{ frames: FRAMES, start: null, audio: [], tags: NO_TAGS },
    colour: { range: 'limited' as const, primaries: null, transfer: null, matrix: 'bt709' },
  },
  ...{ width: 320, height: 180, kind: 'dpx10' as const, bytes: 1 },
  about: () => ({
    ...{ name: '', source: '', timecode: null, rate: rate(25) },
    ...{ interlaced: false, transfer: null, primaries: null },
  }),
};
const OPEN = 'keyint=12:bframes=3:open-gop=1';

test.each([
  ['open.mp4', ['-c:v', 'libx264', '-x264-params', OPEN]],
  ['stream.mts', ['-c:v', 'libx264', '-x264-params', OPEN]],
  ['open.mov', ['-c:v', 'libx265', '-x265-params', `${OPEN}:log-level=none`, '-tag:v', 'hvc1']],
  ['program.mpg', ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2']],
])('of %s, around the beginnings of its groups and at its end', async (name, coded) => {
  const file = path.join(dir, name);
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25', '-frames:v', String(FRAMES)],
    ...['-pix_fmt', 'yuv420p', ...coded, file],
  );
  const rgb =
    'scale=in_range=limited:in_color_matrix=bt709:out_range=full:flags=bicubic+accurate_rnd+full_chroma_int';
  const all = md5s('-i', file, '-vf', `${rgb},format=gbrp10le`);
  expect(new Set(all).size).toBe(FRAMES);
  for (const from of [0, 5, 11, 22, 47, FRAMES - 4]) {
    const made = await makeImages(
      file,
      { from, to: from + 4 },
      how,
      path.join(dir, 'made'),
      new AbortController().signal,
    );
    const found = made.map((m) => all.indexOf(md5s('-i', m, '-pix_fmt', 'gbrp10le')[0]!));
    expect(found).toEqual([from, from + 1, from + 2, from + 3]);
  }
});
