import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  after,
  nameKey,
  nameNumber,
  type Place,
  PlaceIndex,
  placeKey,
  placeNumber,
  sameOnes,
  spread,
  Standing,
  textNumber,
} from './placeIndex';

/** Names that differ in case, form or not at all, and such whose lower case depends on what is beside it. */
const name = fc
  .array(
    fc.constantFrom('a', 'B', 'b', '1', '/', 'é', 'e\u0301', 'É', 'Σ', 'σ', 'ς', 'K', '\u212a', 'ß', '.'),
    {
      maxLength: 6,
    },
  )
  .map((parts) => parts.join(''));
const at = (path: string, root = 'shelf'): Place => ({ root, path });

describe('numbers', () => {
  test('names of one key have one number', () => {
    fc.assert(
      fc.property(name, name, (a, b) => {
        if (nameKey(a) === nameKey(b)) expect(nameNumber(a)).toBe(nameNumber(b));
      }),
      { numRuns: 2000 },
    );
    expect(nameNumber('\u212aelvin')).toBe(nameNumber('kelvin'));
    expect(nameNumber('E\u0301TE\u0301')).toBe(nameNumber('été'));
    expect(nameNumber('a')).not.toBe(nameNumber('b'));
  });

  test('of texts together they follow from those of the parts', () => {
    const plain = fc.string({ unit: 'grapheme-ascii', maxLength: 12 });
    fc.assert(
      fc.property(plain, plain, plain, (root, folder, file) => {
        const [start, stem] = [textNumber(`${root}/${folder}`)!, textNumber(file)!];
        expect(spread(after(start.sum, stem))).toBe(placeNumber({ root, path: folder + file }));
      }),
    );
    expect(textNumber('é')).toBeNull();
  });

  test('a hundred thousand names of one camera have hardly one in common', () => {
    const numbers = new Set<number>();
    for (let i = 0; i < 100_000; i++)
      numbers.add(
        placeNumber(at(`SLW/D${(i % 20) + 1}/B${i % 40}/SLW_B${i % 40}_${String(i).padStart(5, '0')}.MP4`)),
      );
    expect(numbers.size).toBeGreaterThan(99_900);
  });
});

test('an index finds what a map by keys finds', () => {
  fc.assert(
    fc.property(fc.array(name, { maxLength: 40 }), fc.array(name, { maxLength: 20 }), (there, asked) => {
      const places = [...new Map(there.map((p) => [placeKey(at(p)), at(p)])).values()];
      const byKey = new Map(places.map((p) => [placeKey(p), p]));
      const index = new PlaceIndex(places, (p) => p);
      for (const path of [...there, ...asked])
        expect(index.get(placeNumber(at(path)), () => at(path))).toBe(byKey.get(placeKey(at(path))));
    }),
  );
});

test('a place of the same number that is another is told apart', () => {
  const index = new PlaceIndex(
    [at('a'), at('b'), at('c')],
    (p) => p,
    () => 7,
  );
  expect(index.get(7, () => at('B'))).toEqual(at('b'));
  expect(index.get(7, () => at('d'))).toBeUndefined();
  expect(index.get(8, () => at('b'))).toBeUndefined();
});

test('what is there twice is found, also among others of its number', () => {
  const names = ['a', 'b', 'A', 'c', 'B', 'd'];
  const none = ['a', 'b', 'c'];
  expect(sameOnes(Int32Array.from(names, nameNumber), (i) => nameKey(names[i]!))).toEqual([
    [0, 2],
    [1, 4],
  ]);
  expect(sameOnes(new Int32Array(6), (i) => nameKey(names[i]!))).toEqual([
    [0, 2],
    [1, 4],
  ]);
  expect(sameOnes(new Int32Array(3), (i) => none[i]!)).toEqual([]);
});

test('names on the disk are known by their folders', () => {
  const standing = new Standing();
  const folders = [
    { root: 'shelf', folder: 'a' },
    { root: 'shelf', folder: '' },
    { root: 'far', folder: 'a' },
  ];
  expect(standing.unknown(folders)).toEqual(folders);
  standing.add(folders[0]!, ['T1.MP4', 'É.MP4']);
  expect(standing.unknown(folders)).toEqual(folders.slice(1));
  const has = (path: string, root = 'shelf'): boolean =>
    standing.has(placeNumber(at(path, root)), () => at(path, root));
  expect([has('a/t1.mp4'), has('a/e\u0301.MP4'), has('T1.MP4'), has('a/T1.MP4', 'far')]).toEqual([
    true,
    true,
    false,
    false,
  ]);
  standing.add(folders[1]!, ['T1.MP4']);
  expect([has('T1.MP4'), has('a/T1.MP4')]).toEqual([true, true]);
});
