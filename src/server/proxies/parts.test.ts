import { afterAll, expect, test } from '@jest/globals';
import { chmodSync, copyFileSync, mkdtempSync, realpathSync, rmSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { sourceOfPart } from '../../core/proxies/part';
import { READY_RECIPES, type Recipe } from '../../core/proxies/recipe';
import { NO_TAGS, type ProxySource } from '../../core/proxies/source';
import { rate } from '../../core/platform/timecode/rate';
import { parseTimecode } from '../../core/platform/timecode/timecode';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { makeProxy } from './proxy';
import { decodedHashes, type Inputs, proxyLimits } from './run';
import { put } from '../testing/media';

// A part that is transcoded shows the frames that a transcode of the whole clip has there, timecode in the picture included, and its sound
// goes with them, in streams that FFmpeg finds no place in, too.

const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-parts-')));
afterAll(() => rmSync(dir, { recursive: true }));
copyFileSync(
  path.join(
    process.cwd(),
    'node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-500-normal.woff2',
  ),
  path.join(dir, 'face'),
);
const FRAMES = 90;
const signal = new AbortController().signal;
const ffmpeg = (...args: string[]): Buffer =>
  execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args], { maxBuffer: 1 << 28 });
const md5s = (file: string): string[] =>
  ffmpeg('-i', file, '-map', '0:v', '-fps_mode', 'passthrough', '-f', 'framemd5', '-')
    .toString()
    .split('\n')
    .filter((line) => line !== '' && !line.startsWith('#'))
    .map((line) => line.split(',').at(-1)!.trim());
/** When the sound begins to be heard, seconds from the first frame. */
function heardAt(file: string): number {
  const begins = execFileSync(
    FFPROBE(),
    ['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'stream=start_time', '-of', 'csv=p=0', file],
    { encoding: 'utf8' },
  );
  const raw = ffmpeg('-i', file, '-map', '0:a', '-ac', '1', '-ar', '48000', '-f', 's16le', '-');
  const samples = new Int16Array(Uint8Array.from(raw).buffer);
  return samples.findIndex((s) => Math.abs(s) > 3000) / 48_000 - Number(begins);
}

const prores = READY_RECIPES.find((r) => r.name === 'ProRes LT in MOV, same size')!;
const written: Recipe = { ...prores, burn: { name: false, timecode: true } };
const SOURCE: ProxySource = {
  ...{
    matrix: 'smpte170m',
    pixelAspect: null,
    rotation: 0,
    scan: 'progressive',
    rate: rate(25),
    varies: false,
  },
  ...{ frames: FRAMES, start: parseTimecode('10:00:00:00', rate(25)), audio: [[1]], tags: NO_TAGS },
  colour: { range: 'limited', primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' },
};
const make = async (
  inputs: Inputs,
  name: string,
  part: { from: number; to: number } | null,
  recipe = written,
): Promise<string> => {
  const to = path.join(dir, name);
  rmSync(to, { force: true });
  // Stills have no sound.
  const source =
    typeof inputs[0] !== 'string' && inputs[0].kind === 'stills' ? { ...SOURCE, audio: [] } : SOURCE;
  await makeProxy(inputs, to, recipe, part ? sourceOfPart(source, part) : source, {
    ...{ signal, onProgress: () => undefined, part },
    beside: { look: null, name: null, face: 'face' },
  });
  return to;
};
const OPEN = ['-c:v', 'libx264', '-x264-params', 'keyint=12:min-keyint=12:bframes=3:scenecut=0:open-gop=1'];
/** A clip, or so much of it, heard from 2.08 s on. */
const shot = (name: string, coded: string[], { from, to } = { from: 0, to: FRAMES }): string => {
  const file = path.join(dir, name);
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25'],
    ...['-f', 'lavfi', '-i', "aevalsrc='if(gte(t,2.08),0.8*sin(2*PI*1000*t),0)':s=48000"],
    ...['-vf', `trim=start_frame=${from}:end_frame=${to},setpts=PTS-STARTPTS`],
    ...['-af', `atrim=start=${from / 25}:end=${to / 25},asetpts=PTS-STARTPTS`],
    ...['-pix_fmt', 'yuv420p', ...coded, file],
  );
  return file;
};

test.each<[string, () => Inputs]>([
  ['open groups', () => [shot('open.mp4', [...OPEN, '-c:a', 'aac'])]],
  ['a transport stream', () => [shot('stream.mts', [...OPEN, '-c:a', 'mp2'])]],
  [
    'a program stream',
    () => [shot('program.mpg', ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2', '-c:a', 'mp2'])],
  ],
  [
    'a picture that begins later than its sound',
    () => {
      const early = shot('early.mkv', [...OPEN, '-c:a', 'pcm_s16le']);
      const late = path.join(dir, 'late.mkv');
      ffmpeg(
        '-i',
        early,
        '-itsoffset',
        '0.32',
        '-i',
        early,
        '-map',
        '1:v',
        '-map',
        '0:a',
        '-c',
        'copy',
        late,
      );
      return [late];
    },
  ],
  [
    'a take in two files',
    () => {
      const coded = [...OPEN, '-c:a', 'pcm_s16le'];
      const a = shot('1.mov', coded, { from: 0, to: 40 });
      const b = shot('2.mov', coded, { from: 40, to: FRAMES });
      return [{ kind: 'video', files: [a, b], rate: rate(25) }];
    },
  ],
  [
    'numbered stills',
    () => {
      ffmpeg(
        '-f',
        'lavfi',
        '-i',
        'testsrc2=s=320x180:r=25',
        '-frames:v',
        String(FRAMES),
        path.join(dir, '%03d.png'),
      );
      const files = Array.from({ length: FRAMES }, (_, n) =>
        path.join(dir, `${String(n + 1).padStart(3, '0')}.png`),
      );
      return [{ kind: 'stills', files, rate: rate(25) }];
    },
  ],
])('of %s', async (name, inputsOf) => {
  const inputs = inputsOf();
  const whole = await make(inputs, 'whole.mov', null);
  const all = md5s(whole);
  expect(new Set(all).size).toBe(FRAMES);
  for (const from of [11, 35]) {
    const part = { from, to: from + 20 };
    const made = await make(inputs, 'part.mov', part);
    expect([from, md5s(made).map((m) => all.indexOf(m))]).toEqual([
      from,
      Array.from({ length: 20 }, (_none, i) => from + i),
    ]);
    // Its beginning is heard in those that have it, as far from the picture as in the whole.
    if (name !== 'numbered stills' && from === 35)
      expect(heardAt(made)).toBeCloseTo(Math.max(0, heardAt(whole) - from / 25), 2);
    const [original, own] = [
      await decodedHashes(inputs, signal, { ...part, rate: rate(25) }),
      await decodedHashes([whole], signal, { ...part, rate: rate(25) }),
    ];
    expect([original.length, own]).toEqual([
      1,
      await decodedHashes([made], signal, { from: 0, to: 20, rate: rate(25) }),
    ]);
  }
});

test('a part that is counted up to for longer than FFmpeg may make no picture is made', async () => {
  const stream = shot('slow.mpg', ['-c:v', 'mpeg2video', '-g', '12', '-bf', '2', '-c:a', 'mp2']);
  const all = md5s(await make([stream], 'whole.mov', null));
  const [was, limit] = [process.env.FFMPEG_PATH, proxyLimits.milliseconds];
  const slow = put(path.join(dir, 'slow-ffmpeg'), `#!/bin/sh\nexec ${FFMPEG()} -readrate 0.5 "$@"\n`);
  chmodSync(slow, 0o755);
  process.env.FFMPEG_PATH = slow;
  // Its frames come after six seconds and a half.
  proxyLimits.milliseconds = 4000;
  let part;
  try {
    part = await make([stream], 'part.mov', { from: 81, to: 84 });
  } finally {
    proxyLimits.milliseconds = limit;
    if (was === undefined) delete process.env.FFMPEG_PATH;
    else process.env.FFMPEG_PATH = was;
  }
  expect(md5s(part).map((m) => all.indexOf(m))).toEqual([81, 82, 83]);
});

test('a recipe that copies is tried on the first frames alone', async () => {
  const rewrap = READY_RECIPES.find((r) => r.name === 'Rewrap in MOV')!;
  const made = await make(
    [shot('copied.mp4', [...OPEN, '-c:a', 'aac'])],
    'made.mov',
    { from: 0, to: 20 },
    rewrap,
  );
  const asked = ['-v', 'error', '-select_streams', 'v:0', '-count_packets'];
  const of = ['-show_entries', 'stream=nb_read_packets', '-of', 'csv=p=0', made];
  expect(execFileSync(FFPROBE(), [...asked, ...of], { encoding: 'utf8' }).trim()).toBe('20');
});
