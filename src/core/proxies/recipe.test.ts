import { describe, expect, test } from '@jest/globals';
import {
  faultsOf,
  fitSize,
  LIGHT,
  madeExample,
  READY_RECIPES,
  Recipe,
  RecipeFile,
  recipeWords,
  type Size,
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
  ])('in a box of 960×540, %d×%d becomes %d×%d', (w, h, width, height) =>
    expect(fitSize(w, h, LIGHT.size)).toEqual({ width, height }),
  );
  test.each<[Size['fit'], number, number, number, number]>([
    ['same', 1920, 1080, 1920, 1080],
    ['same', 1921, 1081, 1922, 1082],
    ['half', 1920, 1080, 960, 540],
    ['half', 4096, 2160, 2048, 1080],
    ['quarter', 3840, 2160, 960, 540],
    ['quarter', 1920, 1080, 480, 270],
  ])('%s of %d×%d is %d×%d', (fit, w, h, width, height) =>
    expect(fitSize(w, h, { fit } as Size)).toEqual({ width, height }),
  );
});

test('every recipe that is always there can be followed, has a name of its own, and says what it is', () => {
  for (const recipe of READY_RECIPES) expect(Recipe.parse(recipe)).toEqual(recipe);
  expect(new Set(READY_RECIPES.map((r) => r.name)).size).toBe(READY_RECIPES.length);
  expect(READY_RECIPES.map(recipeWords)).toEqual([
    'H.264, MP4, fits in 960×540, AAC',
    'ProRes proxy, MOV, half size, sound not compressed',
    'VC-3 low bandwidth, MXF, half size, sound not compressed',
    'Motion JPEG, MOV, quarter size, sound not compressed',
    'H.264, MP4, fits in 1280×720, AAC of channels 1, 2, look applied, name and timecode in the picture',
    'ProRes LT, MOV, same size, sound not compressed',
    'VC-3 high quality, 10 bit, MXF, same size, sound not compressed',
    'picture as it is, MOV, sound as it is',
    'picture as it is, MP4, sound as it is',
  ]);
});

test.each<[string, Partial<Recipe>, string]>([
  ['ProRes in MP4', { video: { codec: 'prores', grade: 'lt' } }, 'MP4 is made with H.264 only.'],
  ['H.264 in MXF', { container: 'mxf' }, 'MXF is made with VC-3 or ProRes only.'],
  ['PCM in MP4', { audio: { ...LIGHT.audio, codec: 'pcm' } }, 'choose MOV for sound without compression'],
  ['a rewrap that codes', { purpose: 'rewrap' }, 'A rewrap keeps the picture'],
  ['a kept picture that is no rewrap', { video: { codec: 'copy' } }, 'A rewrap keeps the picture'],
  ['beside the original under its very name', { place: { at: 'beside' } }, 'needs words in its name'],
  [
    'fields kept in VC-3',
    { interlaced: 'kept', video: { codec: 'vc3', grade: 'low' }, container: 'mov' },
    'Fields are kept in H.264 and ProRes only.',
  ],
])('cannot be followed: %s', (_, change, fault) => {
  const recipe = { ...LIGHT, ...change };
  expect(faultsOf(recipe).join(' ')).toContain(fault);
  expect(Recipe.safeParse(recipe).success).toBe(false);
});

test.each(['../x', 'a/b', 'x\u0000', ' x', 'x.', 'CON:1', 'a'.repeat(61)])(
  'words that could lead elsewhere or be refused are refused: %j',
  (words) => expect(Recipe.safeParse({ ...LIGHT, words }).success).toBe(false),
);

test('a folder that climbs is refused, as is what a recipe does not have', () => {
  for (const folder of ['..', '.sort-shelf', 'a/b', ''])
    expect(Recipe.safeParse({ ...LIGHT, place: { at: 'folder', folder } }).success).toBe(false);
  expect(Recipe.safeParse({ ...LIGHT, command: 'rm' }).success).toBe(false);
  expect(
    RecipeFile.safeParse({ format: 'sort-shelf-recipes', version: 1, recipes: [{ ...LIGHT, size: null }] })
      .success,
  ).toBe(false);
});

test('where what is made goes', () => {
  expect(READY_RECIPES.map((r) => madeExample('A1', r))).toEqual([
    'A1.mp4',
    'A1.mov',
    'A1.mxf',
    'A1.mov',
    'For viewing/A1_view.mp4',
    'A1_edit.mov',
    'A1_edit.mxf',
    'A1_rewrap.mov',
    'A1_rewrap.mp4',
  ]);
});
