import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { provePair } from '../../core/proxies/prove';
import { LIGHT, type Recipe } from '../../core/proxies/recipe';
import { changesOf, type ProxySource } from '../../core/proxies/source';
import { sourceOf } from './source';
import { rate } from '../../core/platform/timecode/rate';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import type { Footage } from '../platform/media/input';
import { audioStreams, endReaders, endTagReader, readStatements } from '../reading';
import { probe } from '../platform/media/probe';
import { frameAsJpeg } from '../viewing/frames';
import { makeProxy } from './proxy';
import { proxyFacts, wantedOf } from './provePairs';

// Originals that are not upright, progressive, square, Y′CbCr, in one file and at one rate. What is in the proxy is looked at through
// FFmpeg; what is expected follows from how each was made.

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-odd-originals-'));
});
afterAll(async () => {
  await Promise.all([endReaders(), endTagReader()]);
  rmSync(dir, { recursive: true, force: true });
});

const ffmpeg = (...args: string[]): void => {
  execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args]);
};
const at = (name: string): string => path.join(dir, name);
/** Red above, blue below, a green block at the upper left: which way up and round a picture is can be told from it. */
const MARKED =
  'color=red:s=320x180:r=25:d=0.4,drawbox=y=90:h=90:c=blue:t=fill,drawbox=w=80:h=45:c=lime:t=fill';
const X264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'];

/** The proxy of a file, as made of what is read of it, with its proof. */
async function proxied(file: string, sounds: string[] = [], recipe: Recipe = LIGHT) {
  const { size, mtimeMs } = statSync(file);
  const { statements, audio, fault } = await readStatements(
    {
      kind: 'video',
      files: [
        { role: 'original', file, size, modified: mtimeMs },
        ...sounds.map((s) => ({
          role: 'sound' as const,
          file: s,
          size: statSync(s).size,
          modified: mtimeMs,
        })),
      ],
    },
    { zoneMinutes: 0, stillsRate: 25 },
  );
  expect(fault).toBeNull();
  const apart = await Promise.all(sounds.map(async (s) => audioStreams(await probe(s))));
  const source = sourceOf(statements, [audio.slice(0, audio.length - apart.flat().length), ...apart])!;
  const wanted = await wantedOf(statements, () => Promise.resolve(file));
  return { ...(await madeOf([file, ...sounds], source, recipe, wanted)), source };
}

async function madeOf(
  inputs: readonly [Footage | string, ...string[]],
  source: ProxySource,
  recipe: Recipe,
  wanted: Awaited<ReturnType<typeof wantedOf>>,
) {
  const to = at(
    `${path.basename(typeof inputs[0] === 'string' ? inputs[0] : inputs[0].files[0]!)}.proxy.mp4`,
  );
  rmSync(to, { force: true });
  await makeProxy(inputs, to, recipe, source, {
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
  const proof = provePair(wanted, await proxyFacts(to, source.varies));
  return { to, proof, changes: changesOf(recipe, source) };
}

const entries = (file: string, what: string, stream = 'v:0'): string =>
  execFileSync(
    FFPROBE(),
    ['-v', 'error', '-select_streams', stream, '-show_entries', what, '-of', 'csv=p=0', file],
    { encoding: 'utf8' },
  )
    .split('\n')
    .map((line) => line.replace(/,$/, ''))
    .filter((line) => line !== '')
    .join('\n');

/** The colour at a place of the first picture, of shares of its sides. */
function colourAt(file: string, x: number, y: number): string {
  const [width, height] = entries(file, 'stream=width,height').split(',').map(Number) as [number, number];
  const raw = execFileSync(FFMPEG(), [
    ...['-v', 'error', '-noautorotate', '-i', file, '-frames:v', '1'],
    ...['-f', 'rawvideo', '-pix_fmt', 'rgb24', 'pipe:1'],
  ]);
  const i = 3 * (Math.floor(y * height) * width + Math.floor(x * width));
  const [r, g, b] = [raw[i]!, raw[i + 1]!, raw[i + 2]!];
  return g > 150 && r < 120 && b < 120
    ? 'green'
    : r > 150 && b < 120
      ? 'red'
      : b > 150 && r < 120
        ? 'blue'
        : 'other';
}

describe('pictures that are turned when shown', () => {
  test.each([
    [90, 180, 320, ['blue', 'green', 'red']],
    [180, 320, 180, ['blue', 'blue', 'green']],
    [270, 180, 320, ['red', 'blue', 'blue']],
  ] as const)('by %d°: the proxy is upright, with its shape', async (turn, width, height, corners) => {
    ffmpeg('-f', 'lavfi', '-i', MARKED, ...X264, at('flat.mp4'));
    const file = at(`turned-${turn}.mp4`);
    // FFmpeg's option counts anticlockwise.
    ffmpeg('-i', at('flat.mp4'), '-c', 'copy', '-metadata:s:v:0', `rotate=${360 - turn}`, file);
    const { to, proof, changes, source } = await proxied(file);
    expect(source.rotation).toBe(turn);
    expect(entries(to, 'stream=width,height')).toBe(`${width},${height}`);
    expect(entries(to, 'stream_side_data=rotation')).toMatch(/^-?0?$/);
    // At the left above, at the right above, at the right below.
    expect([colourAt(to, 0.1, 0.1), colourAt(to, 0.9, 0.1), colourAt(to, 0.9, 0.9)]).toEqual(corners);
    expect(changes).toEqual([`turned by ${turn}°`]);
    expect(proof.checks.filter((c) => c.result === 'differs')).toEqual([]);
  });

  test('a take in two files is turned like one', async () => {
    const file = at('turned-180.mp4');
    const { source } = await proxied(file);
    const take = { ...source, frames: source.frames * 2 };
    const { to, proof } = await madeOf(
      [{ kind: 'video', files: [file, file], rate: source.rate }],
      take,
      LIGHT,
      { frames: 20, rate: rate(25), start: null, channels: 0 },
    );
    expect([colourAt(to, 0.1, 0.1), colourAt(to, 0.9, 0.9)]).toEqual(['blue', 'green']);
    expect(proof.checks[0]!.result).toBe('same');
  });
});

test.each([
  ['720x576', '64/45', '960,540', 'a wide picture of 625 lines'],
  ['720x480', '8/9', '640,480', 'a narrow one of 525 lines'],
  ['960x540', '2/1', '960,270', 'an anamorphic lens'],
])('pixels of %s that are not square keep the shape shown: %s → %s, %s', async (size, aspect, shown) => {
  const file = at(`aspect-${size}.mp4`);
  ffmpeg('-f', 'lavfi', '-i', `testsrc2=s=${size}:r=25:d=0.4,setsar=${aspect}`, ...X264, file);
  const { to, changes } = await proxied(file);
  expect(entries(to, 'stream=width,height')).toBe(shown);
  expect(entries(to, 'stream=sample_aspect_ratio')).toBe('1:1');
  expect(changes).toEqual(['pixels made square']);
  // Its pictures have that shape too.
  const frame = at('frame.jpg');
  writeFileSync(frame, await frameAsJpeg(file, 0, { rate: rate(25) }, 960));
  const [w, h] = shown.split(',').map(Number) as [number, number];
  const [pw, ph] = entries(frame, 'stream=width,height').split(',').map(Number) as [number, number];
  expect(Math.abs(pw / ph - w / h)).toBeLessThan(0.02);
});

describe('interlaced originals', () => {
  const made = (order: 'tff' | 'bff'): string => {
    const file = at(`${order}.mov`);
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=s=720x576:r=50:d=0.8', '-vf', `interlace=scan=${order}`],
      ...['-c:v', 'libx264', '-flags', '+ilme+ildct', '-x264opts', `${order}=1`, '-pix_fmt', 'yuv420p', file],
    );
    return file;
  };
  const flags = (file: string) => [
    ...new Set(entries(file, 'frame=interlaced_frame').split('\n').map(Number)),
  ];

  test.each(['tff', 'bff'] as const)(
    '%s: frames are made of fields, none is lost, and it is said',
    async (order) => {
      const { to, proof, changes } = await proxied(made(order));
      expect(flags(to)).toEqual([0]);
      expect(entries(to, 'stream=nb_frames,avg_frame_rate')).toBe('25/1,20');
      expect(changes).toEqual(['deinterlaced']);
      expect(proof.checks.filter((c) => c.result === 'differs')).toEqual([]);
    },
  );

  test('a recipe that keeps fields keeps them', async () => {
    const { to, changes } = await proxied(made('tff'), [], { ...LIGHT, interlaced: 'kept' });
    expect(flags(to)).toEqual([1]);
    expect(changes).toEqual([]);
  });
});

test.each([
  ['rgb.mov', ['-c:v', 'libx264rgb', '-crf', '0']],
  ['raw.mov', ['-c:v', 'rawvideo', '-pix_fmt', 'rgb24']],
  ['png.mov', ['-c:v', 'png', '-pix_fmt', 'rgb48be']],
])('RGB keeps its colours and levels: %s', async (name, codec) => {
  ffmpeg('-f', 'lavfi', '-i', `${MARKED},format=gbrp`, ...codec, at(name));
  const { to, changes } = await proxied(at(name));
  expect(changes).toEqual(['RGB made Y′CbCr']);
  expect(entries(to, 'stream=pix_fmt,color_range,color_space')).toBe('yuv420p,tv,bt709');
  expect([colourAt(to, 0.1, 0.1), colourAt(to, 0.9, 0.1), colourAt(to, 0.9, 0.9)]).toEqual([
    'green',
    'red',
    'blue',
  ]);
  // Blue by ITU-R BT.709, limited: 16 + 219 × 0.0722.
  const luma = execFileSync(FFMPEG(), [
    ...[
      '-v',
      'error',
      '-i',
      to,
      '-frames:v',
      '1',
      '-vf',
      'crop=40:20:200:140',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'yuv420p',
      'pipe:1',
    ],
  ]);
  expect(Math.abs(luma[100]! - 32)).toBeLessThanOrEqual(2);
});

test('4:4:4 with twelve bits', async () => {
  const file = at('full-chroma.mov');
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    MARKED,
    '-c:v',
    'prores_ks',
    '-profile:v',
    '4444',
    '-pix_fmt',
    'yuva444p10le',
    file,
  );
  const { to, changes } = await proxied(file);
  expect(entries(to, 'stream=pix_fmt')).toBe('yuv420p');
  expect(changes).toEqual([]);
});

test.each([
  ['dpx', 'gbrp10be'],
  ['exr', 'gbrpf32le'],
  ['tif', 'rgb48le'],
])('numbered stills: %s', async (extension, format) => {
  const folder = at(`stills-${extension}`);
  mkdirSync(folder);
  ffmpeg('-f', 'lavfi', '-i', MARKED, '-pix_fmt', format, path.join(folder, `S.%04d.${extension}`));
  const files = Array.from({ length: 10 }, (_, i) =>
    path.join(folder, `S.${String(i + 1).padStart(4, '0')}.${extension}`),
  );
  const { statements, fault } = await readStatements(
    {
      kind: 'stills',
      files: files.map((file, i) => ({
        role: i === 0 ? ('original' as const) : ('still' as const),
        file,
        size: statSync(file).size,
        modified: 0,
      })),
    },
    { zoneMinutes: 0, stillsRate: 24 },
  );
  expect(fault).toBeNull();
  const source = sourceOf(statements, [[]])!;
  const footage: Footage = { kind: 'stills', files, rate: source.rate };
  const { to, proof, changes } = await madeOf(
    [footage],
    source,
    LIGHT,
    await wantedOf(statements, () => Promise.resolve(footage)),
  );
  expect(proof.checks.filter((c) => c.result === 'differs')).toEqual([]);
  expect(entries(to, 'stream=avg_frame_rate')).toBe('24/1');
  expect(changes).toEqual(['RGB made Y′CbCr']);
  expect([colourAt(to, 0.1, 0.1), colourAt(to, 0.9, 0.9)]).toEqual(['green', 'blue']);
});

describe('sound', () => {
  /** How loud a channel of a stream is, decibel: a tone of 5 kHz that is there or is not. */
  const loud = (file: string, stream: number, channel: number): number =>
    Number(
      /mean_volume: (-?[\d.]+)/.exec(
        execFileSync(
          'sh',
          [
            '-c',
            '"$@" 2>&1',
            'sh',
            FFMPEG(),
            '-hide_banner',
            '-i',
            file,
            '-map',
            `0:a:${stream}`,
            '-af',
            `pan=mono|c0=c${channel},volumedetect`,
            '-f',
            'null',
            '-',
          ],
          { encoding: 'utf8' },
        ),
      )![1],
    );
  const tones = (n: number, silent: number) =>
    `aevalsrc=d=0.4:s=48000:exprs='${Array.from({ length: n }, (_, i) => (i === silent ? '0' : '0.2*sin(2*PI*5000*t)')).join('|')}'`;

  test.each([
    [6, 3],
    [8, 5],
    [12, 11],
    [16, 0],
  ])(
    '%d channels in one stream: each is heard whole, and the silent one is where it was',
    async (n, silent) => {
      const file = at(`channels-${n}.mov`);
      ffmpeg(
        ...['-f', 'lavfi', '-i', MARKED, '-f', 'lavfi', '-i', tones(n, silent)],
        ...['-c:v', 'libx264', '-c:a', 'pcm_s16le', file],
      );
      const { to, proof, changes } = await proxied(file);
      expect(proof.checks.find((c) => c.what === 'channels')).toMatchObject({
        result: 'same',
        proxy: String(n),
      });
      expect(changes).toEqual(['audio channels in pairs']);
      const heard = Array.from({ length: n }, (_, i) => loud(to, Math.floor(i / 2), i % 2));
      expect(heard.map((dB) => dB > -30)).toEqual(heard.map((_, i) => i !== silent));
    },
  );

  test('four channels of a square are not mixed into a cross', async () => {
    const file = at('quad.mov');
    ffmpeg(
      ...['-f', 'lavfi', '-i', MARKED, '-f', 'lavfi', '-i', `${tones(4, 2)}:c=quad`],
      ...['-c:v', 'libx264', '-c:a', 'pcm_s16le', file],
    );
    const { to } = await proxied(file);
    const heard = [0, 1, 2, 3].map((c) => loud(to, 0, c));
    expect(heard.map((dB) => dB > -30)).toEqual([true, true, false, true]);
  });

  test('picture and sound in files of their own (OP-Atom) become one proxy', async () => {
    const file = at('atom.mxf');
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=s=1280x720:r=25:d=0.4', '-c:v', 'dnxhd', '-profile:v', 'dnxhr_hq'],
      ...['-pix_fmt', 'yuv422p', '-timecode', '10:00:00:00', '-f', 'mxf_opatom', file],
    );
    const sounds = [1, 2].map((n) => at(`atom_A0${n}.mxf`));
    for (const [i, s] of sounds.entries())
      ffmpeg(
        ...['-f', 'lavfi', '-i', `sine=f=5000:d=0.4:r=48000,volume=${i}`, '-c:a', 'pcm_s16le'],
        ...['-f', 'mxf_opatom', s],
      );
    const { to, proof } = await proxied(file, sounds);
    expect(proof.checks.map((c) => [c.what, c.result])).toEqual([
      ['frames', 'same'],
      ['rate', 'same'],
      ['start', 'same'],
      ['duration', 'same'],
      ['channels', 'same'],
      ['aspect', 'same'],
    ]);
    expect(entries(to, 'stream=channels', 'a')).toBe('1\n1');
    expect([loud(to, 0, 0) > -30, loud(to, 1, 0) > -30]).toEqual([false, true]);
  });
});

test('a fragmented file is counted, not guessed', async () => {
  const file = at('fragments.mp4');
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25:d=2.44', ...X264, '-g', '10', '-bf', '2'],
    ...['-movflags', 'frag_keyframe+empty_moov', file],
  );
  const { to, proof, source } = await proxied(file);
  expect(source.frames).toBe(61);
  expect(entries(to, 'stream=nb_frames')).toBe('61');
  expect(proof.checks.filter((c) => c.result === 'differs')).toEqual([]);
});

describe('a rate that varies', () => {
  // Of 60 frames each tenth is dropped, then each third.
  const made = (name: string) => {
    const file = at(name);
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=30:d=2'],
      ...['-vf', "select='if(lt(n,30),mod(n,10),mod(n,3))'", '-fps_mode', 'passthrough', ...X264],
      ...['-video_track_timescale', '30000', file],
    );
    return file;
  };

  test('is kept frame by frame, and proven by the times of all of them', async () => {
    const file = made('varying.mp4');
    const { to, proof, source } = await proxied(file);
    expect(source.varies).toBe(true);
    const times = (f: string) =>
      entries(f, 'frame=pts_time')
        .split('\n')
        .map((t) => Number(t).toFixed(3));
    const first = Number(times(file)[0]);
    expect(times(to).map((t) => Number(t))).toEqual(
      times(file).map((t) => Number((Number(t) - first).toFixed(3))),
    );
    expect(proof.checks.map((c) => [c.what, c.result])).toEqual([
      ['frames', 'same'],
      ['times', 'same'],
      ['start', 'unknown'],
      ['channels', 'same'],
      ['aspect', 'same'],
    ]);
  });

  test('one with as many frames at an even rate does not match', async () => {
    const file = made('varying.mp4');
    const even = at('even.mp4');
    const { source } = await proxied(file);
    ffmpeg(
      '-i',
      file,
      '-vf',
      `setpts=N/${source.frames / 2}/TB`,
      '-r',
      String(source.frames / 2),
      ...X264,
      even,
    );
    const { size, mtimeMs } = statSync(file);
    const { statements } = await readStatements(
      { kind: 'video', files: [{ role: 'original', file, size, modified: mtimeMs }] },
      { zoneMinutes: 0, stillsRate: 25 },
    );
    const proof = provePair(
      await wantedOf(statements, () => Promise.resolve(file)),
      await proxyFacts(even, true),
    );
    expect(proof.checks[0]!.result).toBe('same');
    expect(proof.checks[1]).toMatchObject({ what: 'times', result: 'differs' });
  });
});

test('a codec that nothing here knows is said to be that, not tried', async () => {
  const known = readFileSync(
    (ffmpeg('-f', 'lavfi', '-i', MARKED, '-c:v', 'mjpeg', at('known.mov')), at('known.mov')),
  );
  const unknown = at('unknown.mov');
  writeFileSync(unknown, Buffer.from(known.toString('latin1').replace('jpeg', 'qzx1'), 'latin1'));
  const { size, mtimeMs } = statSync(unknown);
  const { fault, notes } = await readStatements(
    { kind: 'video', files: [{ role: 'original', file: unknown, size, modified: mtimeMs }] },
    { zoneMinutes: 0, stillsRate: 25 },
  );
  expect(fault).toBeNull();
  expect(notes.join()).toContain('this machine has no decoder for it');
});
