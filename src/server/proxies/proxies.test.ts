import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { mkdtempSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { chooseFacts, rateOf } from '../../core/facts/facts';
import { statementsFromProbe } from '../../core/facts/probe';
import { provePair } from '../../core/proxies/prove';
import { recipeArguments } from '../../core/proxies/arguments';
import { LIGHT } from '../../core/proxies/recipe';
import { NO_TAGS } from '../../core/proxies/source';
import { sourceOf } from './source';
import { fps } from '../../core/platform/timecode/rate';
import { frameAsJpeg } from '../viewing/frames';
import { probe, sniff } from '../platform/media/probe';
import { makeProxy } from './proxy';
import { FFMPEG, FFPROBE, keepFrames } from '../platform/media/tools';
import { type ClipSpec, makeClip, put, sizeOf, testShelf } from '../testing/media';
import { clearHalfMade, makingName } from './makeProxies';
import { pairFactsOf, proxyFacts } from './provePairs';
import { audioStreams } from '../reading/readFamily';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-proxies-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

const ask = (file: string, ...args: string[]) =>
  execFileSync(FFPROBE(), ['-v', 'error', ...args, '-of', 'csv=p=0', file], { encoding: 'utf8' })
    .trim()
    .replace(/,$/, '');
const X264_422 = [
  '-c:v',
  'libx264',
  '-preset',
  'ultrafast',
  '-pix_fmt',
  'yuv422p10le',
  '-strict',
  'unofficial',
];
const X265_422 = [
  '-c:v',
  'libx265',
  '-preset',
  'ultrafast',
  '-x265-params',
  'log-level=error',
  '-pix_fmt',
  'yuv422p10le',
  '-tag:v',
  'hvc1',
];

const MATRIX: [string, string, ClipSpec][] = [
  ['H.264 4:2:0 8 bit in MP4 at 25', 'a.mp4', {}],
  ['H.264 4:2:2 10 bit in MOV with four mono tracks', 'b.mov', { codec: X264_422, audio: [1, 1, 1, 1] }],
  [
    'HEVC 4:2:2 10 bit in MP4 at 100 fps',
    'c.mp4',
    { codec: X265_422, rate: '100', frames: 40, start: '14:22:05:40' },
  ],
  [
    'VC-3 in MXF without sound',
    'd.mxf',
    {
      codec: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
      audio: [],
      size: '1280x720',
    },
  ],
  ['29.97 drop-frame across a minute', 'e.mov', { rate: '30000/1001', start: '00:00:59;20', frames: 31 }],
  ['59.94 drop-frame', 'f.mp4', { rate: '60000/1001', start: '01:00:00;00', frames: 33 }],
  ['23.976', 'g.mov', { rate: '24000/1001', start: '23:59:59:20', frames: 24 }],
  ['119.88', 'h.mp4', { rate: '120000/1001', start: '10:00:00:000', frames: 30, audio: [] }],
  ['four channels in one stream', 'i.mov', { audio: [4] }],
  ['no timecode at all', 'j.mp4', { start: null }],
  ['tall', 'k.mp4', { size: '180x320' }],
];

describe('proxies keep rate, frames, timecode and channels', () => {
  test.each(MATRIX)('%s', async (_, name, spec) => {
    const from = makeClip(path.join(dir, name), spec);
    expect(await sniff(from, sizeOf(from))).toBeNull();
    const output = await probe(from);
    const statements = statementsFromProbe(output, { zoneMinutes: 0 });
    const original = pairFactsOf(statements);
    expect(original.frames).toBe(spec.frames ?? 10);
    const to = path.join(dir, `${name}.proxy.mp4`);
    const progress: number[] = [];
    const source = sourceOf(statements, [audioStreams(output)])!;
    await makeProxy([from], to, LIGHT, source, {
      signal: new AbortController().signal,
      onProgress: (p) => progress.push(p.done),
    });
    const proof = provePair(original, await proxyFacts(to));
    expect(proof.checks.filter((c) => c.result === 'differs')).toEqual([]);
    expect(proof.state).toBe(spec.start === null ? 'unproven' : 'proven');
    expect(progress.at(-1)).toBe(1);
    // Counted frame by frame, rate and timecode as ffprobe reads them: not through our own reader.
    expect(ask(to, '-count_frames', '-select_streams', 'v:0', '-show_entries', 'stream=nb_read_frames')).toBe(
      String(spec.frames ?? 10),
    );
    expect(ask(to, '-select_streams', 'v:0', '-show_entries', 'stream=avg_frame_rate')).toBe(
      `${(spec.rate ?? '25').replace(/^(\d+)$/, '$1/1')}`,
    );
    const tags = ask(to, '-select_streams', 'd:0', '-show_entries', 'stream_tags=timecode');
    expect(tags).toBe(spec.start === null ? '' : (spec.start ?? '14:22:05:00'));
    expect(
      ask(to, '-select_streams', 'a', '-show_entries', 'stream=channels')
        .split(/\s+/)
        .filter(Boolean)
        .map(Number),
    ).toEqual(spec.audio ?? [2]);
    expect(ask(to, '-select_streams', 'v:0', '-show_entries', 'stream=codec_name,pix_fmt')).toMatch(
      /^h264,yuv(j)?420p$/,
    );
  });

  test('levels and range are carried across, full and limited', async () => {
    for (const [range, flag] of [
      ['full', 'pc'],
      ['limited', 'tv'],
    ] as const) {
      const from = path.join(dir, `${range}.mp4`);
      execFileSync(FFMPEG(), [
        '-v',
        'error',
        '-f',
        'lavfi',
        '-i',
        'testsrc2=size=320x180:rate=25:duration=0.4',
        '-vf',
        `scale=out_range=${range}:out_color_matrix=bt709`,
        '-c:v',
        'libx264',
        '-preset',
        'ultrafast',
        '-pix_fmt',
        'yuv420p',
        '-color_range',
        flag,
        '-colorspace',
        'bt709',
        '-color_primaries',
        'bt709',
        '-color_trc',
        'bt709',
        from,
      ]);
      const to = path.join(dir, `${range}.proxy.mp4`);
      await makeProxy(
        [from],
        to,
        LIGHT,
        {
          matrix: 'bt709',
          pixelAspect: 1,
          rotation: 0,
          scan: 'progressive',
          varies: false,
          rate: { num: 25, den: 1 },
          frames: 10,
          start: null,
          audio: [],
          colour: { range, primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' },
          tags: NO_TAGS,
        },
        { signal: new AbortController().signal, onProgress: () => undefined },
      );
      expect(
        ask(
          to,
          '-select_streams',
          'v:0',
          '-show_entries',
          'stream=color_range,color_space,color_transfer,color_primaries',
        ),
      ).toBe(`${flag},bt709,bt709,bt709`);
      // Luma of every frame by FFmpeg's signalstats: the darkest and brightest tenth, and the mean. A wrong range would move
      // the dark by up to 16 steps and the bright by up to 20.
      const luma = (file: string) =>
        execFileSync(
          FFPROBE(),
          [
            '-v',
            'error',
            '-f',
            'lavfi',
            '-i',
            `movie=${file},signalstats`,
            '-show_entries',
            'frame_tags=lavfi.signalstats.YLOW,lavfi.signalstats.YAVG,lavfi.signalstats.YHIGH',
            '-of',
            'csv=p=0',
          ],
          { encoding: 'utf8' },
        )
          .trim()
          .split('\n')
          .map((l) => l.split(',').map(Number));
      const [a, b] = [luma(from), luma(to)];
      expect(b).toHaveLength(10);
      const far = (k: number) => Math.max(...a.map((frame, i) => Math.abs(frame[k]! - b[i]![k]!)));
      expect([far(0) <= 4, far(1) <= 1.5, far(2) <= 4]).toEqual([true, true, true]);
    }
  });

  test('a cancelled run ends FFmpeg and rejects', async () => {
    const from = makeClip(path.join(dir, 'long.mp4'), { frames: 1500 });
    const stop = new AbortController();
    const run = makeProxy(
      [from],
      path.join(dir, 'long.proxy.mp4'),
      LIGHT,
      {
        matrix: 'bt709',
        pixelAspect: 1,
        rotation: 0,
        scan: 'progressive',
        varies: false,
        rate: { num: 25, den: 1 },
        frames: 1500,
        start: null,
        audio: [[2]],
        colour: { range: null, primaries: null, transfer: null, matrix: null },
        tags: NO_TAGS,
      },
      { signal: stop.signal, onProgress: () => stop.abort(new Error('enough')) },
    );
    await expect(run).rejects.toThrow('enough');
  });

  test('a proxy that lost a frame is found, and so is one that lost its timecode', async () => {
    const from = makeClip(path.join(dir, 'whole.mp4'), { frames: 25 });
    const facts = pairFactsOf(statementsFromProbe(await probe(from), { zoneMinutes: 0 }));
    expect(
      provePair(facts, await proxyFacts(makeClip(path.join(dir, 'short.mp4'), { frames: 24 }))).state,
    ).toBe('mismatched');
    expect(
      provePair(
        facts,
        await proxyFacts(makeClip(path.join(dir, 'zero.mp4'), { frames: 25, start: '00:00:00:00' })),
      ).state,
    ).toBe('mismatched');
    expect(
      provePair(facts, await proxyFacts(makeClip(path.join(dir, 'same.mp4'), { frames: 25 }))).state,
    ).toBe('proven');
  });
});

test.each<[string, ClipSpec]>([
  [
    'H.264 with B-frames at 25',
    { codec: ['-c:v', 'libx264', '-bf', '3', '-pix_fmt', 'yuv420p'], frames: 60 },
  ],
  ['HEVC at 29.97', { codec: X265_422, rate: '30000/1001', frames: 60, start: null }],
])('the frame shown is the frame asked for: %s', async (name, spec) => {
  const file = makeClip(path.join(dir, `${name.slice(0, 4)}.mov`), spec);
  const rate = rateOf(chooseFacts(statementsFromProbe(await probe(file), { zoneMinutes: 0 })))!;
  expect(fps(rate)).toBeCloseTo(spec.rate ? 29.97 : 25, 2);
  // One that is small is decoded alone.
  for (const [n, width] of [0, 1, 24, 25, 59].flatMap((n) => [320, 240].map((w) => [n, w] as const))) {
    // FFmpeg's own count of decoded frames, without any seeking.
    const counted = execFileSync(FFMPEG(), [
      '-v',
      'error',
      '-i',
      file,
      '-vf',
      `select=eq(n\\,${n}),scale='min(${width},iw)':-2:out_color_matrix=smpte170m:out_range=full`,
      '-frames:v',
      '1',
      '-q:v',
      '3',
      '-f',
      'mjpeg',
      'pipe:1',
    ]);
    const sha = (b: Uint8Array) => createHash('sha256').update(b).digest('hex');
    expect(sha(await frameAsJpeg(file, n, { rate }, width))).toBe(sha(counted));
  }
  for (const width of [320, 240])
    await expect(frameAsJpeg(file, 500, { rate }, width)).rejects.toMatchObject({ title: 'Unreadable' });
});

test('at start only half-made proxies are removed: no other file, and nothing through a link', async () => {
  const s = await testShelf();
  try {
    const making = path.join(s.proxies, '.sort-shelf', 'making');
    const half = `${randomUUID()}-1-0123abcd.mp4`;
    put(path.join(making, half), 'half');
    put(path.join(making, `${makingName(randomUUID(), 1)}.mp4`), 'half');
    put(path.join(making, 'A001.mp4'), 'somebody’s');
    // Another server may be making its own there.
    const others = `${randomUUID()}-1-0123abcd-0123abcd.mp4`;
    put(path.join(making, others), 'another server’s');
    await clearHalfMade(s.runtime);
    expect(readdirSync(making).sort()).toEqual([others, 'A001.mp4'].sort());
    rmSync(making, { recursive: true });
    const elsewhere = path.join(s.dir, 'elsewhere');
    put(path.join(elsewhere, half), 'not ours');
    symlinkSync(elsewhere, making);
    await clearHalfMade(s.runtime);
    expect(readdirSync(elsewhere)).toEqual([half]);
    rmSync(making);
  } finally {
    await s.close();
  }
});

test('the arguments hold no shell and no protocol', async () => {
  const colour = { range: null, primaries: null, transfer: null, matrix: null };
  const args = recipeArguments(
    LIGHT,
    {
      matrix: 'bt709',
      pixelAspect: 1,
      rotation: 0,
      scan: 'progressive',
      varies: false,
      rate: { num: 25, den: 1 },
      frames: 1,
      start: null,
      audio: [],
      colour,
      tags: NO_TAGS,
    },
    await keepFrames(),
  );
  expect(args.every((a) => typeof a === 'string' && !/[;&|`$]/.test(a))).toBe(true);
});
