import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import { NOTHING_BESIDE, recipeArguments } from './arguments';
import { LIGHT, READY_RECIPES, type Recipe } from './recipe';
import { changesOf, channelsOf, NO_TAGS, type ProxySource, streamsOf } from './source';

const source: ProxySource = {
  matrix: 'bt2020',
  pixelAspect: 1,
  rotation: 0,
  scan: 'progressive',
  varies: false,
  rate: rate(30000, 1001),
  frames: 300,
  start: parseTimecode('01:00:00;00', rate(30000, 1001)),
  audio: [[1, 1, 4]],
  colour: { range: 'full', primaries: 'bt2020', transfer: null, matrix: 'bt2020nc' },
  tags: NO_TAGS,
};
const recipe = (container: Recipe['container'], codec: Recipe['video']['codec']): Recipe =>
  READY_RECIPES.find((r) => r.container === container && r.video.codec === codec)!;
const after = (args: readonly string[], flag: string) => args[args.indexOf(flag) + 1];

describe('what FFmpeg is told', () => {
  const args = recipeArguments(LIGHT, source, ['-fps_mode', 'passthrough']);

  test('keeps every frame, the rate, the timecode with its drop flag, and every audio stream', () => {
    expect(after(args, '-fps_mode')).toBe('passthrough');
    expect(after(args, '-enc_time_base')).toBe('1001/30000');
    expect(after(args, '-timecode')).toBe('01:00:00;00');
    expect(after(args, '-filter:a:2')).toBe('pan=4.0|c0=c0|c1=c1|c2=c2|c3=c3');
    expect(after(args, '-b:a:2')).toBe('384000');
  });

  test('carries range and tags, and invents none', () => {
    expect(after(args, '-vf')).toContain('in_range=full:out_range=full');
    expect(after(args, '-color_range')).toBe('pc');
    expect(after(args, '-color_primaries')).toBe('bt2020');
    expect(args).not.toContain('-color_trc');
  });

  test('without a timecode none is written', () => {
    const none = recipeArguments(LIGHT, { ...source, start: null }, []);
    expect(none).not.toContain('-timecode');
    expect(after(none, '-write_tmcd')).toBe('0');
  });

  test('a rewrap keeps every stream, and makes none', () => {
    const kept = recipeArguments(recipe('mov', 'copy'), { ...source, audio: [[2], [1, 1]] }, ['-keep']);
    expect(kept.flatMap((a, i) => (a === '-map' ? [kept[i + 1]] : []))).toEqual([
      '0:v:0',
      '0:a:0',
      '1:a:0',
      '1:a:1',
    ]);
    expect(after(kept, '-c')).toBe('copy');
    expect(after(kept, '-strict')).toBe('unofficial');
    expect(kept).not.toContain('-vf');
    expect(kept).not.toContain('-keep');
  });

  test('a look that only grades leaves the colour tags, one that converts makes them those of BT.709', () => {
    const with_ = (graded: boolean, of = source) =>
      recipeArguments({ ...LIGHT, look: true }, of, [], {
        ...NOTHING_BESIDE,
        look: { file: 'x.cube', kind: '3D', graded },
      });
    expect(after(with_(true), '-color_primaries')).toBe('bt2020');
    expect(after(with_(true), '-vf')).toContain('in_color_matrix=bt2020,format=gbrp16le,lut3d=file=x.cube');
    expect(after(with_(false), '-color_primaries')).toBe('bt709');
    expect(after(with_(false), '-vf')).toContain('scale=out_color_matrix=bt709');
    // What states no matrix is taken for what it is by its size, and goes back to it.
    const unsaid: ProxySource = { ...source, matrix: 'bt709', colour: { ...source.colour, matrix: null } };
    expect(after(with_(true, unsaid), '-vf')).toMatch(
      /in_color_matrix=bt709,.*scale=out_color_matrix=bt709:/,
    );
    expect(with_(true, unsaid)).not.toContain('-colorspace');
  });
});

describe('sound', () => {
  const labels = (r: Recipe, audio: number[][]) =>
    streamsOf(r, { audio }).map((s) => `${s.file}:${s.stream} ${s.layout} ${s.from.join('')}`);

  test('of six and more channels AAC has pairs: none is put where only bass is kept', () => {
    expect(labels(LIGHT, [[7], [2]])).toEqual([
      '0:0 stereo 01',
      '0:0 stereo 23',
      '0:0 stereo 45',
      '0:0 mono 6',
      '1:0 stereo 01',
    ]);
  });

  test('without compression streams stay as they are, however many channels they have', () => {
    expect(labels(recipe('mov', 'prores'), [[16], [1, 2]])).toEqual([
      '0:0 16c 0123456789101112131415',
      '1:0 mono 0',
      '1:1 stereo 01',
    ]);
  });

  test('chosen channels are counted through all streams, and those that are not there are left out', () => {
    const some: Recipe = { ...LIGHT, audio: { ...LIGHT.audio, channels: [2, 3, 9] } };
    expect(labels(some, [[2, 4]])).toEqual(['0:0 mono 1', '0:1 mono 0']);
    expect(channelsOf(some, { audio: [[2, 4]] })).toBe(2);
    expect(channelsOf({ ...LIGHT, audio: { ...LIGHT.audio, codec: 'none' } }, { audio: [[2]] })).toBe(0);
    expect(channelsOf(recipe('mov', 'copy'), { audio: [[2, 4], [1]] })).toBe(7);
  });
});

test('what is otherwise in what is made is said', () => {
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
  expect(changesOf({ ...LIGHT, audio: { ...LIGHT.audio, channels: [1, 2] } }, source)).toEqual([
    '2 of 6 audio channels',
  ]);
  expect(changesOf(recipe('mov', 'mjpeg'), { ...source, colour: { ...source.colour, range: null } })).toEqual(
    ['range made full'],
  );
  expect(changesOf(recipe('mov', 'copy'), odd)).toEqual([]);
});
