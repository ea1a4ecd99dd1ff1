import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { cdlCube } from '../../core/facts';
import { applyCdl } from '../../core/facts/looks';
import { rate } from '../../core/platform/timecode/rate';
import { parseTimecode } from '../../core/platform/timecode/timecode';
import { neededOf } from '../../core/proxies/arguments';
import { LIGHT, READY_RECIPES, type Recipe, sizeFault, soundFault } from '../../core/proxies/recipe';
import type { ProxySource } from '../../core/proxies/source';
import { addWork, clipViews } from '../cards';
import { files } from '../cards/tables';
import { beginJob } from '../jobs/jobs';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { recipesView } from './library';
import { plainSource } from '../testing/plainSource';
import { makeProxy } from './proxy';
import { provePairs } from './provePairs';
import { decodedHashes } from './run';
import { proxiesView } from './views';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-codings-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

const at = (name: string): string => path.join(dir, name);
const ready = (words: string): Recipe => READY_RECIPES.find((r) => r.name.startsWith(words))!;
const plain: ProxySource = {
  ...plainSource,
  start: parseTimecode('09:59:59:20', rate(25)),
  colour: { range: 'limited', primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' },
};
const make = (from: string, to: string, recipe: Recipe, source: ProxySource, beside = {}) =>
  makeProxy([from], to, recipe, source, {
    signal: new AbortController().signal,
    onProgress: () => undefined,
    beside: { look: null, name: null, face: null, ...beside },
  });
const decoded = (file: string) => decodedHashes([file], new AbortController().signal);
const asked = (file: string, entry: string): string =>
  execFileSync(
    FFPROBE(),
    ['-v', 'error', '-select_streams', 'v:0', '-show_entries', entry, '-of', 'csv=p=0', file],
    {
      encoding: 'utf8',
    },
  )
    .trim()
    .replace(/,$/, '');
/** Red, green and blue of a picture's area, each from 0 to 1. */
const colour = (file: string, area = 'iw:ih:0:0', matrix = 'bt709'): number[] =>
  [
    ...execFileSync(FFMPEG(), [
      ...['-v', 'error', '-i', file, '-frames:v', '1', '-vf'],
      `crop=${area},scale=1:1:flags=area:in_color_matrix=${matrix},format=rgb24`,
      ...['-f', 'rawvideo', '-'],
    ]),
  ].map((b) => b / 255);

describe('a rewrap', () => {
  test('of H.264 4:2:2 10 bit from MP4 into MOV decodes to the identical frames', async () => {
    const codec = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv422p10le'];
    const from = makeClip(at('trap.mp4'), { codec, size: '1280x720' });
    await make(from, at('trap.mov'), ready('Rewrap in MOV'), { ...plain, audio: [[2]] });
    expect(await decoded(at('trap.mov'))).toEqual(await decoded(from));
    // What is told from one that does not: the same without FFmpeg's leave for it.
    execFileSync(FFMPEG(), ['-v', 'error', '-i', from, '-c', 'copy', at('trapped.mov')], { stdio: 'ignore' });
    await expect(decoded(at('trapped.mov'))).rejects.toThrow();
  });

  test('gets the timecode that stands only in a sidecar', async () => {
    const from = makeClip(at('none.mp4'), { start: null });
    await make(from, at('given.mov'), ready('Rewrap in MOV'), { ...plain, audio: [[2]] });
    expect(
      execFileSync(
        FFPROBE(),
        ['-v', 'error', '-show_entries', 'stream_tags=timecode', '-of', 'csv=p=0', at('given.mov')],
        {
          encoding: 'utf8',
        },
      ),
    ).toContain('09:59:59:20');
  });
});

test('fields are kept in ProRes, in their order', async () => {
  for (const [scan, order] of [
    ['top', 'tb'],
    ['bottom', 'bt'],
  ] as const) {
    const from = at(`${scan}.mov`);
    execFileSync(FFMPEG(), [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=50:d=0.4', '-vf'],
      `interlace=scan=${scan === 'top' ? 'tff' : 'bff'}`,
      ...['-c:v', 'prores_ks', '-flags', '+ildct', from],
    ]);
    const to = at(`${scan}-kept.mov`);
    await make(from, to, { ...ready('ProRes LT in MOV, same size'), interlaced: 'kept' }, { ...plain, scan });
    expect([order, order === 'tb' ? 'tt' : 'bb']).toContain(asked(to, 'stream=field_order'));
    const made = at(`${scan}-made.mov`);
    await make(from, made, ready('ProRes LT in MOV, same size'), { ...plain, scan });
    expect(asked(made, 'stream=field_order')).toBe('progressive');
  }
});

test('what cannot be made is said before the start', async () => {
  const s = await testShelf();
  try {
    expect((await recipesView(s.runtime)).map((r) => r.cannot)).toEqual(READY_RECIPES.map(() => null));
    expect(sizeFault(ready('VC-3 low'), 400, 225)).toContain('would make a picture of 200×112');
    expect(sizeFault(ready('VC-3 low'), 640, 360)).toBeNull();
    expect(soundFault(ready('Rewrap in MP4'), 'PCM 24 bit')).toContain('choose MOV');
    expect(soundFault(ready('Rewrap in MP4'), 'AAC')).toBeNull();
    expect(soundFault(ready('Rewrap in MOV'), 'PCM 24 bit')).toBeNull();
    expect(neededOf({ ...ready('VC-3 low'), look: true, burn: { name: true, timecode: false } })).toEqual({
      encoders: ['dnxhd', 'pcm_s24le'],
      filters: ['scale', 'bwdif', 'lut3d', 'lut1d', 'drawtext'],
    });
  } finally {
    await s.close();
  }
});

test('sixteen channels stay sixteen without compression', async () => {
  const from = at('sixteen.mov');
  execFileSync(FFMPEG(), [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=640x360:r=25:d=0.4'],
    ...[
      '-f',
      'lavfi',
      '-i',
      "aevalsrc='0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1':d=0.4:s=48000",
    ],
    ...['-c:v', 'mjpeg', '-c:a', 'pcm_s24le', from],
  ]);
  for (const [recipe, name] of [
    [ready('ProRes proxy'), 'sixteen-p.mov'],
    [ready('VC-3 low'), 'sixteen-v.mxf'],
  ] as const) {
    await make(from, at(name), recipe, { ...plain, audio: [[16]] });
    expect(
      execFileSync(
        FFPROBE(),
        [
          '-v',
          'error',
          '-select_streams',
          'a',
          '-show_entries',
          'stream=channels',
          '-of',
          'csv=p=0',
          at(name),
        ],
        {
          encoding: 'utf8',
        },
      ).trim(),
    ).toBe('16');
  }
});

describe('a look', () => {
  const cdl = {
    id: '',
    slope: [1.2, 1, 0.8] as [number, number, number],
    offset: [0.02, 0, -0.02] as [number, number, number],
    power: [0.9, 1, 1.1] as [number, number, number],
    saturation: 0.7,
  };
  test('is what the CDL makes of a colour, by FFmpeg’s own table', async () => {
    const from = at('flat.mov');
    execFileSync(FFMPEG(), [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=0x806030:s=320x180:r=25:d=0.4', '-vf'],
      'scale=out_color_matrix=bt709:out_range=limited,format=yuv422p10le',
      ...['-c:v', 'prores_ks', '-profile:v', '3', '-colorspace', 'bt709', from],
    ]);
    writeFileSync(at('graded.cube'), cdlCube(cdl));
    await make(from, at('graded.mov'), { ...ready('ProRes LT in MOV, same size'), look: true }, plain, {
      look: { file: 'graded.cube', kind: '3D', graded: true },
    });
    const wanted = applyCdl(cdl, colour(from) as [number, number, number]);
    colour(at('graded.mov')).forEach((c, i) => expect(Math.abs(c - wanted[i]!)).toBeLessThan(0.02));
    expect(Math.abs(wanted[0] - colour(from)[0]!)).toBeGreaterThan(0.05);
  });

  test('of one dimension is applied, too', async () => {
    const from = makeClip(at('one.mp4'), { audio: [] });
    writeFileSync(at('black.cube'), 'LUT_1D_SIZE 2\n0 0 0\n0 0 0\n');
    await make(from, at('black.mp4'), { ...LIGHT, look: true }, plain, {
      look: { file: 'black.cube', kind: '1D', graded: false },
    });
    expect(Math.max(...colour(at('black.mp4')))).toBeLessThan(0.02);
  });
});

test('name and timecode are written into the foot of the picture, whatever the name is', async () => {
  const from = at('grey.mp4');
  execFileSync(FFMPEG(), [
    ...[
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'color=gray:s=640x360:r=25:d=0.4',
      '-pix_fmt',
      'yuv420p',
      from,
    ],
  ]);
  writeFileSync(at('name.txt'), "it's 100% %{pts} : \\ ' [x];");
  const face = path.resolve(
    'node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-500-normal.woff2',
  );
  execFileSync('cp', [face, at('face.woff2')]);
  await make(from, at('written.mp4'), { ...LIGHT, burn: { name: true, timecode: true } }, plain, {
    name: 'name.txt',
    face: 'face.woff2',
  });
  const [foot, left, head] = [
    colour(at('written.mp4'), 'iw/4:ih/16:iw*5/8:ih*15/16-ih/24-4')[0]!,
    colour(at('written.mp4'), 'iw/6:ih/16:iw/30:ih*15/16-ih/24-4')[0]!,
    colour(at('written.mp4'), 'iw:ih/2:0:0')[0]!,
  ];
  expect(Math.abs(head - 0.5)).toBeLessThan(0.02);
  expect(foot).toBeLessThan(0.47);
  expect(left).toBeLessThan(0.47);
});

describe('a part of a clip that is not re-encoded', () => {
  let s: TestShelf;
  let ids: Map<string, string>;
  const made = async () =>
    (await s.runtime.db.select({ path: files.path, role: files.role, clip: files.clip }).from(files)).filter(
      (f) => f.role === 'rewrap',
    );
  const rewrap = async (name: string, part: { from: number; to: number }): Promise<string | null> => {
    const before = await made();
    await addWork(s.runtime, 'proxy', [ids.get(name)!], { recipe: ready('Rewrap in MOV'), part });
    await s.runtime.queue.drain();
    const [file] = (await made()).filter((f) => !before.some((b) => b.path === f.path));
    return file ? path.join(s.proxies, file.path) : null;
  };
  /** MD5 of each frame, by FFmpeg's framemd5. */
  const framesOf = (file: string, more: string[] = []) =>
    execFileSync(FFMPEG(), ['-v', 'error', '-i', file, '-map', '0:v:0', ...more, '-f', 'framemd5', '-'])
      .toString()
      .split('\n')
      .filter((l) => l !== '' && !l.startsWith('#'))
      .map((l) => l.split(',').at(-1)!.trim());
  const timecodeOf = (file: string) =>
    execFileSync(FFPROBE(), [
      ...['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'stream_tags=timecode', '-of', 'csv=p=0'],
      file,
    ])
      .toString()
      .trim();
  const soundOf = (file: string, ...from: string[]) =>
    execFileSync(FFMPEG(), ['-v', 'error', ...from, '-i', file, '-map', '0:a:0', '-f', 's16le', '-'], {
      maxBuffer: 1 << 26,
    });
  const originalOf = (name: string) => path.join(s.shelf, 'In', name);
  const h264 = (...more: string[]) => [
    '-c:v',
    'libx264',
    '-pix_fmt',
    'yuv420p',
    '-sc_threshold',
    '0',
    ...more,
  ];
  beforeAll(async () => {
    s = await testShelf();
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    const of = { frames: 90, rate: '30000/1001', start: '10:00:59;15', audio: [2] };
    makeClip(originalOf('T0001.MP4'), { ...of, codec: h264('-g', '15', '-keyint_min', '15', '-bf', '2') });
    makeClip(originalOf('T0002.MOV'), { ...of, codec: ['-c:v', 'prores_ks', '-profile:v', '0'] });
    makeClip(originalOf('T0003.MP4'), {
      ...of,
      codec: h264('-x264-params', 'open-gop=1:keyint=15:min-keyint=15:bframes=2:b-adapt=0'),
    });
    const mpeg2 = ['-c:v', 'mpeg2video', '-g', '12', '-bf', '0', '-sc_threshold', '1000000000', '-b:v', '8M'];
    makeClip(originalOf('T0004.MXF'), {
      ...of,
      rate: '25',
      start: '10:00:00:00',
      codec: [...mpeg2, '-ar', '48000'],
    });
    await takeInCard(s);
    await s.runtime.queue.drain();
    ids = new Map((await clipViews(s.runtime)).map((c) => [String(c.original), c.id]));
  });
  afterAll(() => s.close());

  test('is cut at the key frames around it; its frames decode to those of the original, and it is proven so', async () => {
    const at = (await rewrap('T0001', { from: 20, to: 40 }))!;
    expect(at).toContain('_rewrap_16-45.mov');
    expect(framesOf(at)).toEqual(framesOf(originalOf('T0001.MP4')).slice(15, 45));
    // Frame 15 from 10:00:59;15 is the first of the next minute, of which two numbers are dropped.
    expect(timecodeOf(at)).toBe('10:01:00;02');
    const [line] = (await proxiesView(s.runtime)).pairs.filter((p) => p.made);
    expect(line).toMatchObject({ state: 'proven', what: 'rewrap by “Rewrap in MOV, frames 16 to 45”' });
    expect(line!.checks.find((c) => c.what === 'decoded')).toMatchObject({
      result: 'same',
      proxy: expect.stringContaining('its picture'),
    });
    await provePairs(s.runtime, [ids.get('T0001')!]);
    expect((await proxiesView(s.runtime)).pairs.find((p) => p.made)).toMatchObject({ state: 'proven' });
  });

  test('to the end of the clip, and from its beginning', async () => {
    const last = (await rewrap('T0001', { from: 80, to: 90 }))!;
    expect(framesOf(last)).toEqual(framesOf(originalOf('T0001.MP4')).slice(75));
    const first = (await rewrap('T0001', { from: 0, to: 3 }))!;
    expect(framesOf(first)).toEqual(framesOf(originalOf('T0001.MP4')).slice(0, 15));
  });

  test('where each frame stands by itself it is cut at any; its sound begins with its picture, sample by sample', async () => {
    const at = (await rewrap('T0002', { from: 33, to: 53 }))!;
    expect(at).toContain('_34-53.mov');
    expect(framesOf(at)).toEqual(framesOf(originalOf('T0002.MOV')).slice(33, 53));
    const from = (33 * 1001) / 30_000;
    const [sound, original] = [soundOf(at), soundOf(originalOf('T0002.MOV'), '-ss', from.toFixed(6))];
    // Twenty frames, but for the packet it ends in.
    const bytes = (20 * 1001 * 44_100 * 4) / 30_000;
    expect(Math.abs(sound.length - bytes)).toBeLessThan(2048 * 4);
    expect(sound.equals(original.subarray(0, sound.length))).toBe(true);
  });

  test('of MXF of long groups this FFmpeg cuts the first frame short: what is made does not match, and is thrown away', async () => {
    expect(await rewrap('T0004', { from: 30, to: 40 })).toBeNull();
    const [fault] = (await proxiesView(s.runtime)).work.flatMap((w) => w.fault ?? []);
    expect(fault).toContain('does not match and was thrown away: frame rate');
    expect(readdirSync(path.join(s.proxies, '.sort-shelf/making'))).toEqual([]);
  });

  test('where frames need others across each key frame none can be cut: that is said, and what would do', async () => {
    expect(await rewrap('T0003', { from: 20, to: 40 })).toBeNull();
    const fault = (await proxiesView(s.runtime)).work.flatMap((w) => w.fault ?? []).at(-1);
    expect(fault).toContain('no frame around the part at which it can be cut');
    expect(fault).toContain('A transcode is cut at any frame');
  });
});
