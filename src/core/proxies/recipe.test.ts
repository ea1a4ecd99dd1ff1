import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import {
  browserPlays,
  estimate,
  changesOf,
  fitSize,
  LIGHT,
  needsProxy,
  proxyArguments,
  type ProxySource,
} from './recipe';

describe('fitSize', () => {
  test.each([
    [3840, 2160, 960, 540],
    [1920, 1080, 960, 540],
    [1280, 720, 960, 540],
    [4096, 2160, 960, 506],
    [1080, 1920, 304, 540],
    [640, 360, 640, 360],
    [2048, 858, 960, 402],
    [1, 1, 2, 2],
  ])('%d×%d becomes %d×%d', (w, h, ow, oh) =>
    expect(fitSize(w, h, LIGHT.box)).toEqual({ width: ow, height: oh }),
  );
});

describe('proxyArguments', () => {
  const source: ProxySource = {
    pixelAspect: 1,
    rotation: 0,
    scan: 'progressive',
    varies: false,
    rate: rate(30000, 1001),
    frames: 300,
    start: parseTimecode('01:00:00;00', rate(30000, 1001)),
    audio: [[1, 1, 4]],
    colour: { range: 'full', primaries: 'bt2020', transfer: null, matrix: 'bt2020nc' },
  };
  const args = proxyArguments(LIGHT, source, ['-fps_mode', 'passthrough']);
  const after = (flag: string) => args[args.indexOf(flag) + 1];

  test('keeps every frame, the rate, the timecode with its drop flag, and every audio stream', () => {
    expect(after('-fps_mode')).toBe('passthrough');
    expect(after('-enc_time_base')).toBe('1001/30000');
    expect(after('-timecode')).toBe('01:00:00;00');
    expect(after('-filter:a:2')).toBe('pan=4.0|c0=c0|c1=c1|c2=c2|c3=c3');
    expect(after('-b:a:2')).toBe('384000');
  });

  test('carries range and tags, and invents none', () => {
    expect(after('-vf')).toContain('in_range=full:out_range=full');
    expect(after('-color_range')).toBe('pc');
    expect(after('-color_primaries')).toBe('bt2020');
    expect(args).not.toContain('-color_trc');
  });

  test('of six and more channels each stream becomes pairs: none is put where only bass is kept', () => {
    const many = proxyArguments(LIGHT, { ...source, audio: [[7], [2]] }, []);
    const pairs = many.flatMap((a, i) => (a === '-map' ? [`${many[i + 1]} ${many[i + 3] ?? ''}`] : []));
    expect(pairs.slice(1)).toEqual([
      '0:a:0 pan=stereo|c0=c0|c1=c1',
      '0:a:0 pan=stereo|c0=c2|c1=c3',
      '0:a:0 pan=stereo|c0=c4|c1=c5',
      '0:a:0 pan=mono|c0=c6',
      '1:a:0 pan=stereo|c0=c0|c1=c1',
    ]);
  });

  test('what is otherwise in the proxy is said', () => {
    expect(changesOf(LIGHT, source)).toEqual([]);
    const odd: ProxySource = {
      ...source,
      pixelAspect: 64 / 45,
      rotation: 270,
      scan: 'top',
      audio: [[12]],
      colour: { ...source.colour, matrix: 'gbr' },
    };
    expect(changesOf(LIGHT, odd)).toEqual([
      'deinterlaced',
      'turned by 270°',
      'pixels made square',
      'RGB made Y′CbCr',
      'audio channels in pairs',
    ]);
    expect(changesOf({ ...LIGHT, interlaced: 'kept' }, { ...source, scan: 'top' })).toEqual([]);
  });

  test('without a timecode none is written', () => {
    const none = proxyArguments(LIGHT, { ...source, start: null }, []);
    expect(none).not.toContain('-timecode');
    expect(none[none.indexOf('-write_tmcd') + 1]).toBe('0');
  });
});

test('what the browser plays', () => {
  const clip = { container: 'MP4', codec: 'H.264', chroma: '4:2:0', bitDepth: 8, audioCodec: 'AAC' };
  expect(browserPlays(clip)).toBe(true);
  expect(browserPlays({ ...clip, codec: 'HEVC' })).toBe(false);
  expect(browserPlays({ ...clip, bitDepth: 10 })).toBe(false);
  expect(browserPlays({ ...clip, audioCodec: 'PCM 24 bit' })).toBe(false);
  expect(browserPlays({ ...clip, container: 'MXF' })).toBe(false);
});

test('why a proxy is needed', () => {
  expect(needsProxy({ readable: true, hasProvenProxy: false, hasCameraProxy: false })).toEqual({
    needed: true,
    because: 'the camera made none',
  });
  expect(needsProxy({ readable: true, hasProvenProxy: true, hasCameraProxy: true }).needed).toBe(false);
  expect(needsProxy({ readable: true, hasProvenProxy: false, hasCameraProxy: true }).because).toContain(
    'does not prove',
  );
  expect(needsProxy({ readable: false, hasProvenProxy: false, hasCameraProxy: false }).needed).toBe(false);
});

test('estimates grow with frames, and time with speed', () => {
  const one = { width: 1920, height: 1080, frames: 250, rate: rate(25), channels: 2 };
  const e = estimate(LIGHT, [one, one], 4);
  expect(e.seconds).toBeCloseTo(5, 6);
  // Two clips of 250 frames of 960×540 at 0.08 bit a pixel, and 20 s of two channels of 96 kbit/s.
  expect(e.bytes).toBe((2 * 250 * 960 * 540 * 0.08 + 20 * 192_000) / 8);
});
