import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { findingsOf, findingWords } from './findings';
import { sampledFrames } from './filmstrip';
import {
  areAlike,
  compare,
  KeptSampled,
  likeness,
  packSampled,
  PictureReader,
  type Sampled,
  SMALL,
} from './pictures';
import { Ranges, shared } from './ranges';
import { silences, SoundReader } from './sound';

const BYTES = SMALL.width * SMALL.height;
const flat = (value: number): Uint8Array => new Uint8Array(BYTES).fill(value);
/** A picture with something in it: brighter to one side. */
const sloping = (by: number, from = 20): Uint8Array =>
  Uint8Array.from({ length: BYTES }, (_, i) => from + (i % SMALL.width) * by);

describe('ranges', () => {
  test('are as long as they have to be; small gaps do not part them', () => {
    const r = new Ranges(3, 1);
    [1, 1, 0, 1, 0, 0, 0, 1, 1, 0].forEach((is, at) => r.at(at, is === 1));
    expect(r.of(10)).toEqual([{ from: 0, to: 4 }]);
  });

  test('one that is not over ends with all', () => {
    const r = new Ranges(2);
    [0, 1, 1].forEach((is, at) => r.at(at, is === 1));
    expect(r.of(3)).toEqual([{ from: 1, to: 3 }]);
  });

  test('shared ones are where all are', () => {
    expect(
      shared([
        [
          { from: 0, to: 10 },
          { from: 20, to: 30 },
        ],
        [{ from: 5, to: 25 }],
      ]),
    ).toEqual([
      { from: 5, to: 10 },
      { from: 20, to: 25 },
    ]);
    expect(shared([[{ from: 0, to: 10 }], [{ from: 8, to: 30 }]], 3)).toEqual([]);
    expect(shared([])).toEqual([]);
  });
});

describe('pictures', () => {
  const read = (pictures: readonly Uint8Array[], piece = 100): ReturnType<PictureReader['end']> => {
    const reader = new PictureReader(pictures.length, 5);
    const all = Uint8Array.from(pictures.flatMap((p) => [...p]));
    for (let i = 0; i < all.length; i += piece) reader.push(all.subarray(i, i + piece));
    return reader.end();
  };

  test('those of the filmstrip are kept, however the bytes come', () => {
    const pictures = Array.from({ length: 40 }, (_, i) => flat(100 + i));
    for (const piece of [1, 100, BYTES, 3 * BYTES + 7]) {
      const seen = read(pictures, piece);
      expect(seen.frames).toBe(40);
      expect(seen.sampled.frames).toEqual(sampledFrames(40));
      expect(seen.sampled.pictures.map((p) => p[0])).toEqual(sampledFrames(40).map((n) => 100 + n));
    }
  });

  test('black for two seconds is found, shorter is not; a little light does not count, more does', () => {
    const almost = flat(20);
    almost.fill(200, 0, Math.floor(0.02 * BYTES));
    const lit = flat(20);
    lit.fill(200, 0, Math.ceil(0.02 * BYTES) + 1);
    const seen = read([
      ...Array.from({ length: 5 }, () => flat(90)),
      ...Array.from({ length: 10 }, (_, i) => (i % 2 ? almost : flat(25))),
      ...Array.from({ length: 12 }, () => lit),
      ...Array.from({ length: 9 }, () => flat(0)),
    ]);
    expect(seen.black).toEqual([{ from: 5, to: 15 }]);
  });

  test('are kept and read back; nonsense is none', () => {
    const sampled: Sampled = { frames: [0, 7, 70_000], pictures: [flat(1), sloping(3), flat(255)] };
    const kept: unknown = JSON.parse(JSON.stringify(packSampled(sampled, '5-7')));
    expect(KeptSampled.parse(kept)).toEqual({ foundBy: 2, of: '5-7', ...sampled });
    expect(KeptSampled.safeParse({ ...(kept as object), pictures: ['§'] }).success).toBe(false);
    // An earlier version found frames in another way, and not always the right ones.
    expect(KeptSampled.safeParse({ ...(kept as object), foundBy: undefined }).success).toBe(false);
  });
});

describe('likeness', () => {
  test('is 1 for the same picture in other levels, −1 for its negative, null where nothing is to be seen', () => {
    expect(likeness(sloping(3), sloping(6, 10)).correlation).toBeCloseTo(1, 6);
    expect(likeness(sloping(3), sloping(-3, 200)).correlation).toBeCloseTo(-1, 6);
    expect(likeness(flat(10), sloping(3)).correlation).toBeNull();
    expect(likeness(flat(10), flat(14))).toEqual({ correlation: null, flatDiffers: false, means: [10, 14] });
    expect(likeness(flat(10), flat(200)).flatDiffers).toBe(true);
    expect(likeness(flat(20), sloping(3)).flatDiffers).toBe(true);
  });

  test('what is written into the foot does not count where it is left out', () => {
    const written = sloping(3);
    written.fill(0, 15 * SMALL.width);
    expect(likeness(sloping(3), written).correlation).toBeLessThan(0.9);
    expect(likeness(sloping(3), written, 15).correlation).toBeCloseTo(1, 6);
  });

  test('of two files by frames they have both; the least alike is told, and a flat picture in the place of one that is not', () => {
    const a: Sampled = { frames: [0, 5, 9], pictures: [sloping(3), sloping(3), sloping(3)] };
    const b: Sampled = { frames: [5, 9, 12], pictures: [sloping(3), sloping(-3, 200), flat(0)] };
    expect(compare(a, b)).toMatchObject({ pictures: 2, worst: { frame: 9 }, flatDiffers: null });
    expect(areAlike(compare(a, b)!)).toBe(false);
    expect(areAlike(compare(a, a)!)).toBe(true);
    const grey: Sampled = { frames: [0, 5], pictures: [flat(120), sloping(3)] };
    expect(compare(a, grey)).toMatchObject({ pictures: 2, worst: { frame: 5 }, flatDiffers: 0 });
    expect(areAlike(compare(a, grey)!)).toBe(false);
    expect(compare(a, { frames: [1], pictures: [flat(0)] })).toBeNull();
  });
});

describe('sound', () => {
  const bytes = (channels: readonly (readonly number[])[]): Uint8Array => {
    const out = new Int16Array(channels.length * channels[0]!.length);
    channels.forEach((values, c) => values.forEach((v, i) => (out[i * channels.length + c] = v)));
    return new Uint8Array(out.buffer);
  };
  const read = (channels: readonly (readonly number[])[], piece = 4099) => {
    const reader = new SoundReader(channels.length);
    const all = bytes(channels);
    for (let i = 0; i < all.length; i += piece) reader.push(all.subarray(i, i + piece));
    return reader.end();
  };
  const seconds = (n: number, value: number): number[] =>
    Array.from({ length: n * 48_000 }, (_, i) => (i % 2 ? value : -value));

  test('peaks and levels of each channel, however the bytes come', () => {
    for (const piece of [1, 3, 4099, 1 << 20]) {
      const seen = read([seconds(0.1, 16_384), seconds(0.1, 0)], piece);
      expect(seen.length).toBeCloseTo(0.1, 6);
      expect(seen.peaks.map((p) => [...new Set(p)])).toEqual([[128], [0]]);
      expect(seen.peaks[0]).toHaveLength(10);
      // Half of full scale is 6.02 dB below it, by definition; a square wave's mean is its peak.
      expect(seen.levels[0]!.peak).toBeCloseTo(-6.02, 2);
      expect(seen.levels[0]!.mean).toBeCloseTo(-6.02, 2);
      expect(seen.levels[1]).toEqual({ peak: null, mean: null });
    }
  });

  test('a long waveform has no more parts than are kept, and keeps its highest', () => {
    const long = seconds(50, 100);
    long[30 * 48_000] = 32_767;
    const [peaks] = read([long], 1 << 20).peaks;
    expect(peaks!.length).toBeLessThanOrEqual(4096);
    expect(peaks!.length).toBeGreaterThan(2000);
    expect(Math.max(...peaks!)).toBe(255);
    expect(peaks!.indexOf(255) / peaks!.length).toBeCloseTo(0.6, 2);
  });

  test('silence of all channels for five seconds is found, of one only it is not', () => {
    const both = read([
      [...seconds(1, 9000), ...seconds(6, 10), ...seconds(1, 9000)],
      [...seconds(2, 9000), ...seconds(6, 10)],
    ]);
    expect(silences([both])).toEqual([{ from: 2, to: 7 }]);
    expect(silences([read([seconds(6, 0), seconds(6, 900)])])).toEqual([]);
    // −60 dB is 32.8 of 32 768.
    expect(silences([read([seconds(6, 32)])])).toEqual([{ from: 0, to: 6 }]);
    expect(silences([read([seconds(6, 33)])])).toEqual([]);
  });

  test('clipped is where three samples and more stand at full scale', () => {
    const values = seconds(4, 1000);
    values.fill(32_767, 48_000, 48_003);
    values.fill(32_767, 49_000, 49_001);
    values.fill(-32_768, 3 * 48_000, 3 * 48_000 + 2);
    expect(read([values]).clipped[0]).toEqual([{ from: 1, to: 1 + 3 / 48_000 }]);
    values.fill(-32_768, 3.5 * 48_000, 3.5 * 48_000 + 3);
    expect(read([values]).clipped[0]).toHaveLength(2);
  });
});

test('findings are told by frames, in their order; black does not also stand still; channels without sound are told as such', () => {
  const pictures = { sampled: { frames: [], pictures: [] }, black: [{ from: 50, to: 100 }], frames: 250 };
  const sound = {
    length: 10,
    peaks: [],
    levels: Array.from({ length: 3 }, () => ({ peak: 0, mean: -20 })),
    quiet: [[{ from: 2, to: 8 }], [{ from: 0, to: 10 }], [{ from: 1, to: 7.01 }]],
    clipped: [[{ from: 1, to: 1.001 }], [], [{ from: 1.0005, to: 1.5 }]],
  };
  const findings = findingsOf(
    pictures,
    [
      { from: 55, to: 100 },
      { from: 120, to: 200 },
    ],
    [sound],
    rate(25),
  );
  expect(findings).toEqual([
    { what: 'channelSilent', from: 0, to: 250, channels: [2] },
    { what: 'clipped', from: 25, to: 38, channels: [1, 3] },
    { what: 'black', from: 50, to: 100, channels: [] },
    { what: 'silent', from: 50, to: 176, channels: [] },
    { what: 'frozen', from: 120, to: 200, channels: [] },
  ]);
  expect(findings.map(findingWords)).toEqual([
    'no sound, channel 2',
    'clipped sound, channels 1 and 3',
    'black picture',
    'silence',
    'frozen picture',
  ]);
});
