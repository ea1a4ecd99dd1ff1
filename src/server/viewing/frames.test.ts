import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { FILMSTRIP, SMALL } from '../../core/analysis';
import { rate } from '../../core/platform/timecode/rate';
import { pictureOf, samplePictures, writeFilmstrip } from '../analysis';
import { FFMPEG } from '../platform/media/tools';
import { findFrame } from '../proxies/run';
import { frameAsJpeg } from './frames';
import { preview } from './preview';

// A frame that is looked at, or compared, is the one of that number, in streams that FFmpeg finds no place in, too. Which it is is told by
// FFmpeg's own decoding of all of them in order.

const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-frames-')));
afterAll(() => rmSync(dir, { recursive: true }));
const FRAMES = 620;
const signal = new AbortController().signal;
const { width, height } = SMALL;
const ffmpeg = (...args: string[]): Buffer =>
  execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args], { maxBuffer: 1 << 28 });
const FIT = `scale=${width}:${height}:flags=area:out_range=full,format=gray`;
/** Pictures of a file in order, small. */
function smallOnes(file: string): Uint8Array[] {
  const all = ffmpeg('-i', file, '-vf', FIT, '-fps_mode', 'passthrough', '-f', 'rawvideo', '-');
  return Array.from(
    { length: all.length / (width * height) },
    (_, n) => new Uint8Array(all.subarray(n * width * height, (n + 1) * width * height)),
  );
}
/** The number of the picture that is most like one. */
function nearest(all: readonly Uint8Array[], one: Uint8Array): number {
  const off = all.map((p) => p.reduce((sum, v, i) => sum + (v - one[i]!) ** 2, 0));
  return off.indexOf(Math.min(...off));
}

const OPEN = 'keyint=24:min-keyint=24:bframes=3:scenecut=0:open-gop=1';
const TONE = ['-f', 'lavfi', '-i', 'sine=r=48000:d=25'];
/** Each frame unlike all others, small as well: columns of light that spell its number. */
const PICTURE = ['-i', path.join(dir, 'numbers.avi')];
beforeAll(() => {
  const spelled = `nullsrc=s=320x180:r=25,format=gray,geq=lum='235*mod(floor(N/pow(2\\,floor(X/32)))\\,2)+16*mod(N\\,2)*between(Y\\,80\\,100)'`;
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    spelled,
    '-frames:v',
    String(FRAMES),
    '-c:v',
    'ffv1',
    path.join(dir, 'numbers.avi'),
  );
});
const H264 = ['-c:v', 'libx264', '-preset', 'fast', '-x264-params', OPEN];

test.each([
  ['open.mp4', H264, []],
  ['stream.mts', H264, TONE],
  [
    'open.mov',
    ['-c:v', 'libx265', '-preset', 'fast', '-x265-params', `${OPEN}:log-level=none`, '-tag:v', 'hvc1'],
    [],
  ],
  ['program.mpg', ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2', '-b:v', '2M'], TONE],
  ['reordered.avi', ['-c:v', 'mpeg4', '-g', '12', '-bf', '2', '-q:v', '3'], TONE],
  ['groups.mxf', ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2', '-b:v', '2M'], []],
  ['uneven.mov', H264, []],
  ['late.mkv', H264, ['-itsoffset', '-0.7', ...TONE]],
  ['each.avi', ['-c:v', 'mjpeg', '-q:v', '4'], []],
])('in %s, around the beginnings of its groups and at its end', async (name, coded, sound) => {
  const file = path.join(dir, name);
  ffmpeg(
    ...sound,
    ...PICTURE,
    ...['-frames:v', String(FRAMES), '-map', sound.length > 0 ? '1:v' : '0:v'],
    ...(sound.length > 0 ? ['-map', '0:a', '-c:a', 'mp2'] : []),
    ...(name.startsWith('uneven')
      ? ['-vf', "setpts='(N+0.3*mod(N,3))/25/TB'", '-fps_mode', 'passthrough']
      : []),
    ...['-pix_fmt', name.endsWith('.avi') ? 'yuvj420p' : 'yuv420p', ...coded, file],
  );
  const all = smallOnes(file);
  expect(all).toHaveLength(FRAMES);
  expect(new Set(all.map((p) => Buffer.from(p).toString('latin1'))).size).toBe(FRAMES);
  const wanted = [0, 1, 23, 24, 310, 335, FRAMES - 1];
  const about = { frames: FRAMES, rate: rate(25), varies: name.startsWith('uneven') };
  const { pictures } = await samplePictures(file, wanted, about, signal);
  expect(pictures.map((p) => nearest(all, p))).toEqual(wanted);
  expect(pictures.every((p, i) => Buffer.from(p).equals(Buffer.from(all[wanted[i]!]!)))).toBe(true);
  const jpeg = path.join(dir, 'frame.jpg');
  for (const n of wanted) {
    // At the size of a picture in a list, which is decoded alone.
    writeFileSync(jpeg, await frameAsJpeg(file, n, about, 160));
    expect([n, nearest(all, smallOnes(jpeg)[0]!)]).toEqual([n, n]);
  }
  writeFileSync(jpeg, await frameAsJpeg(file, 336, about, 320));
  expect(nearest(all, smallOnes(jpeg)[0]!)).toBe(336);
  await expect(frameAsJpeg(file, FRAMES, about, 320)).rejects.toThrow(`has no frame ${FRAMES}`);
  // What is sent to that place, and what is shown there.
  for (const n of [47, FRAMES - 1]) {
    const { sent, shown } = await findFrame(file, n, about, { signal });
    const at = path.join(dir, 'at.png');
    ffmpeg(
      ...(sent > 0 ? ['-ss', String(sent)] : []),
      ...['-i', file, '-map', '0:v:0', '-vf', `trim=start=${shown - 0.01}`, '-frames:v', '1', at],
    );
    expect([n, nearest(all, smallOnes(at)[0]!)]).toEqual([n, n]);
  }
});

describe('a take in several files', () => {
  const cut = (name: string, coded: readonly string[], from: number, to: number): string => {
    const file = path.join(dir, name);
    ffmpeg(
      ...PICTURE,
      '-vf',
      `trim=start_frame=${from}:end_frame=${to},setpts=PTS-STARTPTS`,
      '-pix_fmt',
      'yuv420p',
      ...coded,
      file,
    );
    return file;
  };

  test.each([
    ['mov', true],
    // Without an index all are counted.
    ['mts', false],
  ])('is looked at where its frames are: %s', async (end, indexed) => {
    const files = [
      cut(`1.${end}`, H264, 0, 40),
      cut(`2.${end}`, H264, 40, 100),
      cut(`3.${end}`, H264, 100, 130),
    ];
    const take = { kind: 'video' as const, files, rate: rate(25) };
    const all = files.flatMap(smallOnes);
    expect(all).toHaveLength(130);
    const was = process.env.FFMPEG_PATH;
    const stub = path.join(dir, 'ffmpeg-alone');
    const lines = ['#!/bin/sh', 'case "$*" in *concat*) exit 1;; esac', `exec '${was ?? 'ffmpeg'}' "$@"`];
    writeFileSync(stub, `${lines.join('\n')}\n`, { mode: 0o755 });
    if (indexed) process.env.FFMPEG_PATH = stub;
    try {
      const jpeg = path.join(dir, 'frame.jpg');
      for (const n of [0, 39, 40, 63, 99, 100, 129]) {
        writeFileSync(jpeg, await frameAsJpeg(take, n, { frames: 130, rate: rate(25) }, 160));
        expect([n, nearest(all, smallOnes(jpeg)[0]!)]).toEqual([n, n]);
      }
      await expect(frameAsJpeg(take, 130, { frames: 130, rate: rate(25) }, 160)).rejects.toThrow(
        `1.${end} has no frame 130`,
      );
    } finally {
      if (was === undefined) delete process.env.FFMPEG_PATH;
      else process.env.FFMPEG_PATH = was;
    }
  });
});

test('who goes on and back from a place sees each frame, and none is decoded twice for that', async () => {
  const file = path.join(dir, 'steps.mp4');
  ffmpeg(...PICTURE, '-frames:v', '200', '-pix_fmt', 'yuv420p', ...H264, file);
  const all = smallOnes(file);
  const jpeg = path.join(dir, 'frame.jpg');
  const started = path.join(dir, 'started');
  const was = process.env.FFMPEG_PATH;
  const stub = path.join(dir, 'ffmpeg-counted');
  writeFileSync(stub, `#!/bin/sh\necho "$*" >> '${started}'\nexec '${was ?? 'ffmpeg'}' "$@"\n`, {
    mode: 0o755,
  });
  process.env.FFMPEG_PATH = stub;
  const see = async (n: number): Promise<number> => {
    writeFileSync(jpeg, await frameAsJpeg(file, n, { frames: 200, rate: rate(25) }, 320));
    return n;
  };
  /** From each of these places, some of which are decoded while others are looked at. */
  const walks = [100, 101, 102, 101, 100, 99, 98, 99, 100, 101, 90, 89, 88, 87, 86, 85, 84, 85];
  try {
    const seen: number[] = [];
    for (const n of walks) {
      await see(n);
      process.env.FFMPEG_PATH = was ?? 'ffmpeg';
      seen.push(nearest(all, smallOnes(jpeg)[0]!));
      process.env.FFMPEG_PATH = stub;
    }
    expect(seen).toEqual(walks);
    const runs = readFileSync(started, 'utf8')
      .split('\n')
      .filter((l) => l.includes(' mpjpeg '));
    // Only the place itself was waited for with nothing decoded of it.
    expect(runs.filter((l) => l.includes('-thread_type slice '))).toHaveLength(1);
    // Few at first, and few before it, the last of which may be wanted at once.
    expect(runs.map((l) => Number(/-frames:v (\d+)/.exec(l)?.[1]))).toEqual(expect.arrayContaining([16, 12]));
  } finally {
    if (was === undefined) delete process.env.FFMPEG_PATH;
    else process.env.FFMPEG_PATH = was;
  }
});

test('where FFmpeg ends badly as nothing comes from where it was sent, frames are counted', async () => {
  const file = path.join(dir, 'sent.mp4');
  ffmpeg(...PICTURE, '-frames:v', '520', '-pix_fmt', 'yuv420p', ...H264, file);
  const all = smallOnes(file);
  const was = process.env.FFMPEG_PATH;
  const stub = path.join(dir, 'ffmpeg-stub');
  const lines = ['#!/bin/sh', 'case "$*" in *" -ss "*) exit 1;; esac', `exec '${was ?? 'ffmpeg'}' "$@"`];
  writeFileSync(stub, `${lines.join('\n')}\n`, { mode: 0o755 });
  process.env.FFMPEG_PATH = stub;
  try {
    const about = { frames: 520, rate: rate(25) };
    const { pictures } = await samplePictures(file, [7, 400], about, signal);
    expect(pictures.map((p) => nearest(all, p))).toEqual([7, 400]);
    const jpeg = path.join(dir, 'frame.jpg');
    writeFileSync(jpeg, await frameAsJpeg(file, 401, about, 160));
    expect((await findFrame(file, 402, about, { signal })).shown).toBeCloseTo(402 / 25, 3);
    process.env.FFMPEG_PATH = was ?? 'ffmpeg';
    expect(nearest(all, smallOnes(jpeg)[0]!)).toBe(401);
  } finally {
    if (was === undefined) delete process.env.FFMPEG_PATH;
    else process.env.FFMPEG_PATH = was;
  }
});

describe('colours of pictures of a clip', () => {
  // One field of each, made by the matrix of the clip, by FFmpeg's scaler.
  const COLOURS = ['red', 'lime', 'blue', 'white', '0x804020'];
  const coloured = (name: string, size: string, matrix: string, tagged: boolean): string => {
    const file = path.join(dir, name);
    const fields = COLOURS.flatMap((c) => ['-f', 'lavfi', '-i', `color=${c}:s=${size}:r=25:d=1,format=gbrp`]);
    const tags = ['-color_primaries', matrix, '-color_trc', matrix, '-colorspace', matrix];
    ffmpeg(
      ...fields,
      '-filter_complex',
      `hstack=inputs=${COLOURS.length},scale=out_color_matrix=${matrix}:out_range=limited,format=yuv420p`,
      ...['-c:v', 'libx264', '-qp', '1', '-color_range', 'tv', ...(tagged ? tags : []), file],
    );
    return file;
  };
  /** The colours in the middle of each field of a JPEG, read as a browser does (ITU-T T.871). */
  const seen = (jpeg: string, fields = COLOURS.length): number[][] => {
    const rgb = `scale=${fields}:1:flags=neighbor:in_color_matrix=smpte170m:in_range=full,format=rgb24`;
    const bytes = [...ffmpeg('-i', jpeg, '-vf', rgb, '-frames:v', '1', '-f', 'rawvideo', '-')];
    return Array.from({ length: fields }, (_, i) => bytes.slice(3 * i, 3 * i + 3));
  };
  const MEANT = [
    [255, 0, 0],
    [0, 255, 0],
    [0, 0, 255],
    [255, 255, 255],
    [128, 64, 32],
  ];
  const furthest = (a: number[][]): number =>
    Math.max(...a.flatMap((c, i) => c.map((v, k) => Math.abs(v - MEANT[i]![k]!))));

  test.each([
    ['tagged.mp4', '256x720', 'bt709', true, 'bt709'],
    ['its own.mp4', '256x720', 'bt709', true, 'auto'],
    ['untagged.mp4', '256x720', 'bt709', false, 'bt709'],
    ['small.mp4', '64x480', 'smpte170m', false, 'smpte170m'],
  ] as const)('are those of the clip: %s', async (name, size, matrix, tagged, by) => {
    const file = coloured(name, size, matrix, tagged);
    const shape = size.split('x').map((n, i) => Number(n) * (i === 0 ? COLOURS.length : 1)) as [
      number,
      number,
    ];
    const jpeg = path.join(dir, `${name}.jpg`);
    writeFileSync(jpeg, await frameAsJpeg(file, 0, { rate: rate(25), matrix: by }, 1280));
    expect(furthest(seen(jpeg))).toBeLessThan(6);
    const playing = await preview(file, by);
    const pieces: Uint8Array[] = [];
    for (let piece = await playing.next(); piece; piece = await playing.next()) pieces.push(piece);
    const played = path.join(dir, `${name}.played.mp4`);
    writeFileSync(played, Buffer.concat(pieces));
    ffmpeg(
      '-i',
      played,
      '-frames:v',
      '1',
      '-vf',
      'scale=in_color_matrix=bt709,format=gbrp',
      '-f',
      'image2',
      `${jpeg}.png`,
    );
    expect(furthest(seen(`${jpeg}.png`))).toBeLessThan(12);
    const of = { frames: 25, rate: rate(25), matrix: by };
    writeFileSync(jpeg, await pictureOf(file, 12, of, 1280));
    expect(furthest(seen(jpeg))).toBeLessThan(6);
    // The first picture of its filmstrip, less what is beside it there.
    await writeFilmstrip(file, of, jpeg);
    const wide = Math.min(FILMSTRIP.width, Math.round((FILMSTRIP.height * shape[0]) / shape[1]));
    const first = `crop=${wide}:ih:${(FILMSTRIP.width - wide) / 2}:0`;
    ffmpeg('-i', jpeg, '-vf', first, '-f', 'image2', `${jpeg}.png`);
    expect(furthest(seen(`${jpeg}.png`))).toBeLessThan(12);
  });
});
