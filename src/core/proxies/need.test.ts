import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { browserPlays } from './browser';
import { foreseenBytes } from './foreseen';
import {
  DEFAULT_NEED,
  DEFAULT_PROXIES,
  heavinessOf,
  type NeedFacts,
  type NeedRule,
  needsProxy,
  ProxyRules,
  recipeFor,
} from './need';
import { LIGHT, READY_RECIPES, type Recipe } from './recipe';

const heavy: NeedFacts = {
  camera: 'B',
  codec: 'HEVC',
  allIntra: false,
  chroma: '4:2:2',
  bitDepth: 10,
  width: 3840,
  height: 2160,
  rate: rate(100),
  bitRate: 200_000_000,
};
const light: NeedFacts = {
  ...heavy,
  codec: 'ProRes',
  allIntra: null,
  width: 1920,
  height: 1080,
  rate: rate(25),
};
const nothing: NeedRule = {
  all: false,
  interFrame: false,
  codecs: [],
  fineChroma: false,
  bits: null,
  larger: null,
  faster: null,
  bitRate: null,
};

describe('what needs a proxy', () => {
  const one = { readable: true, hasProvenProxy: false, hasCameraProxy: false };
  test('is said with what the clip is', () => {
    expect(needsProxy(DEFAULT_NEED, one, heavy)).toEqual({
      needed: true,
      because:
        'long-GOP HEVC 4:2:2 10 bit, 3840×2160, 100 fps: coded between frames, chroma 4:2:2, larger than 2048×1152, faster than 60 fps',
    });
    expect(needsProxy(DEFAULT_NEED, one, light)).toEqual({
      needed: false,
      because: 'ProRes 4:2:2 10 bit, 1920×1080, 25 fps: light enough as it is',
    });
  });
  test('a proven proxy is enough, an unreadable original is none', () => {
    expect(needsProxy(DEFAULT_NEED, { ...one, hasProvenProxy: true }, heavy).needed).toBe(false);
    expect(needsProxy(DEFAULT_NEED, { ...one, readable: false }, heavy).because).toContain('cannot be read');
    expect(needsProxy(DEFAULT_NEED, { ...one, hasCameraProxy: true }, heavy).because).toContain(
      'the camera-made proxy does not prove',
    );
  });
  test.each<[Partial<NeedRule>, Partial<NeedFacts>, string[]]>([
    [{ all: true }, {}, ['every clip is to have one']],
    [{ interFrame: true }, { codec: 'H.264', allIntra: true }, []],
    [{ interFrame: true }, { codec: 'H.264', allIntra: null }, ['coded between frames']],
    [{ fineChroma: true }, { codec: 'H.264', allIntra: null, chroma: '4:2:0' }, []],
    [{ codecs: ['ProRes'] }, {}, ['ProRes is to have one']],
    [{ bits: 10 }, {}, ['10 bit']],
    [{ bits: 12 }, {}, []],
    [{ larger: { width: 1920, height: 1080 } }, {}, []],
    [{ larger: { width: 1920, height: 1080 } }, { width: 1080, height: 1920 }, []],
    [{ larger: { width: 1920, height: 1080 } }, { width: 1922 }, ['larger than 1920×1080']],
    [{ larger: { width: 1920, height: 1080 } }, { height: 1200 }, ['larger than 1920×1080']],
    [{ faster: 25 }, {}, []],
    [{ faster: 24 }, {}, ['faster than 24 fps']],
    [{ bitRate: 100_000_000 }, {}, ['more than 100 Mbit/s']],
    [{ bitRate: 100_000_000 }, { bitRate: null }, []],
  ])('by %j, of a light clip with %j: %j', (rule, change, met) =>
    expect(heavinessOf({ ...nothing, ...rule }, { ...light, ...change })).toEqual(met),
  );
});

test('the first rule whose scope fits says the recipe', () => {
  const [, prores, vc3] = READY_RECIPES as [Recipe, Recipe, Recipe];
  const scope = { cameras: [], rates: [], codecs: [] };
  const rules: ProxyRules = {
    ...DEFAULT_PROXIES,
    rules: [
      { id: 'a', scope: { ...scope, cameras: ['B'], rates: ['100'] }, recipe: vc3 },
      { id: 'b', scope: { ...scope, codecs: ['HEVC'] }, recipe: prores },
    ],
  };
  expect(ProxyRules.parse(rules)).toEqual(rules);
  expect(recipeFor(rules, heavy).name).toBe(vc3.name);
  expect(recipeFor(rules, { ...heavy, rate: rate(50) }).name).toBe(prores.name);
  expect(recipeFor(rules, light).name).toBe(LIGHT.name);
  expect(recipeFor(rules, { ...light, codec: null, rate: null }).name).toBe(LIGHT.name);
});

describe('the size of what is made', () => {
  const clip = { width: 1920, height: 1080, frames: 2997, rate: rate(30000, 1001), channels: 2, bytes: 1e9 };
  test('H.264 follows pixels, quality and sound', () => {
    const of = (quality: number) =>
      foreseenBytes({ ...LIGHT, video: { codec: 'h264', quality, bitRate: null } }, clip);
    const sound = ((2997 * 1001) / 30000) * 192_000;
    expect(of(23)).toBe(Math.round((2997 * 960 * 540 * 0.08 + sound) / 8));
    expect(of(17)).toBe(Math.round((2997 * 960 * 540 * 0.16 + sound) / 8));
    const rated = foreseenBytes(
      { ...LIGHT, video: { codec: 'h264', quality: 23, bitRate: 8_000_000 } },
      clip,
    );
    expect(rated).toBe(Math.round((((2997 * 1001) / 30000) * 8_000_000 + sound) / 8));
  });
  test('ProRes LT of 1080 lines at 29.97 is 102 Mbit/s of picture', () => {
    const lt = READY_RECIPES.find((r) => r.name.startsWith('ProRes LT'))!;
    const seconds = (2997 * 1001) / 30000;
    const sound = seconds * 2 * 24 * 48_000;
    expect((foreseenBytes(lt, clip) * 8 - sound) / seconds / 1e6).toBeCloseTo(102, 0);
  });
  test('a rewrap is as large as its original', () => {
    expect(
      foreseenBytes(
        READY_RECIPES.find((r) => r.purpose === 'rewrap')!,
        clip,
      ),
    ).toBe(1e9);
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
