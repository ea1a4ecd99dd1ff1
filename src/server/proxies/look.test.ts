import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { statementsFromProbe } from '../../core/facts';
import { compare, FILMSTRIP, findingWords, sampledFrames } from '../../core/analysis';
import { LIGHT, READY_RECIPES } from '../../core/proxies/recipe';
import type { ProxySource } from '../../core/proxies/source';
import { samplePictures, writeFilmstrip } from '../analysis';
import { probe } from '../platform/media/probe';
import { FFMPEG } from '../platform/media/tools';
import { audioStreams } from '../reading';
import type { Seen } from './look';
import { makeProxy, watchThrough } from './proxy';
import { sourceOf } from './source';

// What is seen while a proxy is made, against FFmpeg's own filters that look for the same: blackdetect, freezedetect, silencedetect,
// volumedetect, and its SSIM and PSNR.

const RATE = { num: 25, den: 1 };
let dir: string;
const at = (name: string): string => path.join(dir, name);
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-look-'));
});
afterAll(() => rmSync(dir, { recursive: true }));

const ffmpeg = (...args: string[]): void =>
  void execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args], { stdio: 'pipe' });
/** What FFmpeg says while it runs a filter. */
const told = (file: string, ...args: string[]): string =>
  execFileSync(
    'sh',
    ['-c', '"$0" "$@" 2>&1', FFMPEG(), '-v', 'info', '-nostats', '-i', file, ...args, '-f', 'null', '-'],
    { encoding: 'utf8' },
  );
const numbers = (text: string, what: RegExp): number[] => [...text.matchAll(what)].map((m) => Number(m[1]));

async function sourceOfFile(file: string): Promise<ProxySource> {
  const output = await probe(file);
  const about = { clip: null, reel: null, zoneMinutes: 0 };
  return sourceOf(statementsFromProbe(output, about), [audioStreams(output)], about)!;
}

async function make(
  file: string,
  recipe = LIGHT,
): Promise<{ seen: Seen; proxy: string; strip: string; poster: string }> {
  const source = await sourceOfFile(file);
  const base = `${path.basename(file)}-${recipe.name.replaceAll(/\W/g, '')}`;
  const stills = { filmstrip: at(`${base}-strip.jpg`), poster: at(`${base}-poster.jpg`) };
  const proxy = at(`${base}.${recipe.container}`);
  const { seen } = await makeProxy([file], proxy, recipe, source, {
    signal: new AbortController().signal,
    onProgress: () => undefined,
    stills,
  });
  return { seen: seen!, proxy, strip: stills.filmstrip, poster: stills.poster };
}

describe('black, still, silent and clipped', () => {
  let file: string;
  let seen: Seen;
  beforeAll(async () => {
    file = at('planted.mov');
    // 2 s moving, 3 s black, 1 s moving, 4 s of one picture, 2 s moving; the sound is silent from 1 s to 8 s but for one channel's start, and clipped at 9 s.
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=size=640x360:rate=25:duration=12'],
      ...['-f', 'lavfi', '-i', 'sine=f=440:r=48000:duration=12'],
      ...[
        '-filter_complex',
        [
          "[0:v]drawbox=c=black:t=fill:enable='between(t,2,4.96)',split[a][b]",
          '[a]trim=end=6,setpts=PTS-STARTPTS[one]',
          '[b]split[c][d]',
          '[c]select=eq(n\\,150),loop=loop=99:size=1,setpts=N/25/TB,trim=end=4[two]',
          '[d]trim=start=10,setpts=PTS-STARTPTS[three]',
          '[one][two][three]concat=n=3,fps=25,format=yuv420p[v]',
          "[1:a]volume=enable='between(t,1,8)':volume=0,volume=enable='gte(t,9)*lt(t,9.5)':volume=40,aformat=channel_layouts=stereo[s]",
          '[1:a]volume=0,aformat=channel_layouts=mono[m]',
        ].join(';'),
      ],
      ...['-map', '[v]', '-map', '[s]', '-map', '[m]'],
      ...['-c:v', 'mpeg2video', '-q:v', '2', '-c:a', 'pcm_s24le', '-frames:v', '300', file],
    );
    ({ seen } = await make(file));
  });

  test('black and still pictures are where FFmpeg’s own filters find them', () => {
    const black = told(file, '-vf', 'blackdetect=d=2:pic_th=0.98:pix_th=0.10');
    const frozen = told(file, '-vf', 'freezedetect=n=-60dB:d=2');
    const of = (what: string) => seen.analysis.findings.filter((f) => f.what === what);
    expect(of('black').map((f) => [f.from / 25, f.to / 25])).toEqual([
      [numbers(black, /black_start:([\d.]+)/g)[0], numbers(black, /black_end:([\d.]+)/g)[0]],
    ]);
    // The black picture stands still, too; that is not said twice.
    const ends = numbers(frozen, /freeze_end: ([\d.]+)/g);
    expect(numbers(frozen, /freeze_start: ([\d.]+)/g)).toHaveLength(2);
    expect(of('frozen').map((f) => [f.from / 25, f.to / 25])).toEqual([
      [numbers(frozen, /freeze_start: ([\d.]+)/g)[1], ends[1]],
    ]);
  });

  test('where nothing is made the same is seen, and filmstrip and poster are made', async () => {
    const stills = { filmstrip: at('alone-strip.jpg'), poster: at('alone-poster.jpg') };
    const alone = await watchThrough([file], await sourceOfFile(file), stills, {
      signal: new AbortController().signal,
      onProgress: () => undefined,
    });
    expect(alone).toEqual(seen);
    for (const still of Object.values(stills)) expect(readFileSync(still).length).toBeGreaterThan(1000);
  });

  test('silence of all channels, and a channel without sound', () => {
    const silence = told(file, '-map', '0:a:0', '-af', 'silencedetect=n=-60dB:d=5');
    const [from, to] = [/silence_start: ([\d.]+)/g, /silence_end: ([\d.]+)/g].map(
      (w) => numbers(silence, w)[0]!,
    );
    const [found] = seen.analysis.findings.filter((f) => f.what === 'silent');
    expect(Math.abs(found!.from / 25 - from!)).toBeLessThanOrEqual(0.04);
    expect(Math.abs(found!.to / 25 - to!)).toBeLessThanOrEqual(0.04);
    expect(seen.analysis.findings.filter((f) => f.what === 'channelSilent').map(findingWords)).toEqual([
      'no sound, channel 3',
    ]);
  });

  test('clipped sound is found where it is, and only there', () => {
    const clipped = seen.analysis.findings.filter((f) => f.what === 'clipped');
    expect(clipped.map((f) => [f.channels, f.from, f.to])).toEqual([[[1, 2], 225, 238]]);
  });

  test('levels are those that FFmpeg measures', () => {
    const measured = told(file, '-map', '0:a:0', '-af', 'astats=measure_overall=none');
    const [peak, mean] = [/Peak level dB: (-?[\d.]+)/g, /RMS level dB: (-?[\d.]+)/g].map((w) =>
      numbers(measured, w),
    );
    seen.analysis.levels.slice(0, 2).forEach((level, i) => {
      expect(Math.abs(level.peak! - peak![i]!)).toBeLessThan(0.01);
      expect(Math.abs(level.mean! - mean![i]!)).toBeLessThan(0.01);
    });
    expect(seen.analysis.levels[2]).toEqual({ peak: null, mean: null });
    expect(seen.waveform!.channels).toHaveLength(3);
    const [length] = numbers(told(file, '-map', '0:a:0', '-af', 'ashowinfo'), /pts_time:([\d.]+)/g).slice(-1);
    expect(Math.abs(seen.waveform!.length - length!)).toBeLessThan(0.05);
  });

  test('brightness is what signalstats measures', () => {
    const frames = sampledFrames(300);
    const stats = told(
      file,
      '-vf',
      `select=${frames.map((n) => `eq(n\\,${n})`).join('+')},scale=in_range=limited:out_range=full,signalstats,metadata=print:key=lavfi.signalstats.YAVG`,
    );
    const average = numbers(stats, /YAVG=([\d.]+)/g);
    expect(average).toHaveLength(frames.length);
    seen.sampled.pictures.forEach((p, i) =>
      expect(Math.abs(p.reduce((n, v) => n + v, 0) / p.length - average[i]!)).toBeLessThan(1.5),
    );
  });
});

describe('the pictures of the same run', () => {
  test('filmstrip and poster are those that are made on their own', async () => {
    const file = at('moving.mp4');
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=1280x720:rate=25:duration=4', '-pix_fmt', 'yuv420p', file);
    const { strip, poster } = await make(file);
    await writeFilmstrip(file, { frames: 100, rate: RATE, matrix: 'bt709' }, at('alone.jpg'));
    const { width, height } = (await probe(at('alone.jpg'))).streams[0]!;
    expect(width).toBe(FILMSTRIP.tiles * FILMSTRIP.width);
    expect((await probe(strip)).streams[0]).toMatchObject({ width, height });
    expect((await probe(poster)).streams[0]).toMatchObject({ width: 480, height: 270 });
    expect(ssim(strip, at('alone.jpg'))).toBeGreaterThan(0.97);
    const frame = at('frame.png');
    ffmpeg(
      '-i',
      file,
      '-vf',
      'select=eq(n\\,50),scale=480:270:in_color_matrix=bt709',
      '-frames:v',
      '1',
      frame,
    );
    expect(ssim(poster, frame)).toBeGreaterThan(0.97);
  });

  test('a clip of one frame, and one without sound', async () => {
    const file = at('one.mp4');
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'testsrc2=size=320x180:rate=25',
      '-frames:v',
      '1',
      '-pix_fmt',
      'yuv420p',
      file,
    );
    const { seen, strip } = await make(file);
    expect(seen.sampled.frames).toEqual([0]);
    expect(seen.waveform).toBeNull();
    expect(seen.analysis).toEqual({ findings: [], levels: [] });
    expect(readFileSync(strip).length).toBeGreaterThan(500);
  });

  test('what is cancelled in the middle, or fails, ends as it does without', async () => {
    const file = at('long.mp4');
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'testsrc2=size=1280x720:rate=25:duration=8'],
      ...['-f', 'lavfi', '-i', 'sine=r=48000:duration=8', '-c:v', 'libx264', '-preset', 'ultrafast'],
      ...['-pix_fmt', 'yuv420p', file],
    );
    const output = await probe(file);
    const about = { clip: null, reel: null, zoneMinutes: 0 };
    const source = sourceOf(statementsFromProbe(output, about), [audioStreams(output)], about)!;
    const stills = { filmstrip: at('cut-strip.jpg'), poster: at('cut-poster.jpg') };
    const unhandled: unknown[] = [];
    const hear = (e: unknown): void => void unhandled.push(e);
    process.on('unhandledRejection', hear);
    try {
      const controller = new AbortController();
      const made = makeProxy([file], at('cut.mp4'), LIGHT, source, {
        signal: controller.signal,
        onProgress: (p) => p.done > 0 && controller.abort(new Error('no more')),
        stills,
      });
      await expect(made).rejects.toThrow('no more');
      await expect(
        makeProxy([file], at('no such folder/x.mp4'), LIGHT, source, {
          signal: new AbortController().signal,
          onProgress: () => undefined,
          stills: { filmstrip: at('b.jpg'), poster: at('c.jpg') },
        }),
      ).rejects.toThrow();
      await new Promise((resolve) => setTimeout(resolve, 200));
      expect(unhandled).toEqual([]);
    } finally {
      process.off('unhandledRejection', hear);
    }
  });

  /** SSIM of two pictures or videos, 1 for the same. */
  const ssim = (a: string, b: string): number =>
    numbers(
      told(a, '-i', b, '-filter_complex', '[0:v]format=yuv420p[x];[1:v]format=yuv420p[y];[x][y]ssim'),
      /All:([\d.]+)/g,
    )[0]!;
});

describe('the measure of likeness', () => {
  test('parts proxies of a clip from other clips and from its own other frames, as SSIM and PSNR do', async () => {
    const [file, other] = [at('a.mp4'), at('b.mp4')];
    // Two pictures of the same kind: what moves is elsewhere.
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'mandelbrot=size=640x360:rate=25:start_scale=3',
      '-frames:v',
      '24',
      '-pix_fmt',
      'yuv420p',
      file,
    );
    ffmpeg(
      '-f',
      'lavfi',
      '-i',
      'mandelbrot=size=640x360:rate=25:start_x=-0.2:start_y=0.6:start_scale=0.5',
      '-frames:v',
      '24',
      '-pix_fmt',
      'yuv420p',
      other,
    );
    const clip = { frames: 24, rate: RATE };
    const of = (f: string) => samplePictures(f, sampledFrames(24), clip);
    const measured = (f: string, ref: string, filter: string, what: RegExp): number =>
      numbers(
        told(f, '-i', ref, '-filter_complex', `[0:v]scale=320:180[x];[1:v]scale=320:180[y];[x][y]${filter}`),
        what,
      )[0]!;
    const original = await of(file);
    for (const recipe of (['h264', 'prores', 'vc3', 'mjpeg'] as const).map((codec) =>
      READY_RECIPES.find((r) => r.video.codec === codec)!,
    )) {
      const { proxy, seen } = await make(file, recipe);
      const ours = compare(original, await of(proxy))!;
      expect([recipe.name, ours.worst!.correlation > 0.99]).toEqual([recipe.name, true]);
      expect(compare(original, seen.sampled)!.worst!.correlation).toBeGreaterThan(0.99);
      expect(measured(proxy, file, 'ssim', /All:([\d.]+)/g)).toBeGreaterThan(0.85);
      expect(measured(proxy, file, 'psnr', /average:([\d.]+)/g)).toBeGreaterThan(25);
    }
    expect(compare(original, await of(other))!.worst!.correlation).toBeLessThan(0.9);
    expect(measured(other, file, 'ssim', /All:([\d.]+)/g)).toBeLessThan(0.85);
    expect(measured(other, file, 'psnr', /average:([\d.]+)/g)).toBeLessThan(25);
  }, 180_000);
});
