import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { duplicates, placesBetween } from './stringOut';

test('places between two others are in order and between them', () => {
  const end = fc.option(fc.integer({ min: -1000, max: 1000 }));
  fc.assert(
    fc.property(end, end, fc.integer({ min: 1, max: 50 }), (a, b, n) => {
      const [before, after] = a !== null && b !== null && a >= b ? [b, a + 1] : [a, b];
      const places = placesBetween(before, after, n)!;
      const all = [...(before === null ? [] : [before]), ...places, ...(after === null ? [] : [after])];
      expect(places).toHaveLength(n);
      for (let i = 1; i < all.length; i++) expect(all[i]!).toBeGreaterThan(all[i - 1]!);
    }),
  );
});

test('where there is no room left it is said', () => {
  let last = 1;
  let halved = 0;
  for (let between = placesBetween(0, last, 1); between; between = placesBetween(0, last, 1)) {
    last = between[0]!;
    halved++;
  }
  expect(halved).toBeGreaterThan(20);
});

test('stretches of a clip that have frames in common are duplicates, as when each is held against each', () => {
  const item = fc.record({
    clip: fc.constantFrom('a', 'b'),
    from: fc.nat(20),
    length: fc.integer({ min: 1, max: 9 }),
  });
  fc.assert(
    fc.property(fc.array(item, { maxLength: 9 }), (list) => {
      const items = list.map(({ clip, from, length }) => ({ clip, from, to: from + length }));
      const plain = items.map((x, i) =>
        items.some((y, n) => n !== i && y.clip === x.clip && x.from < y.to && y.from < x.to),
      );
      expect(duplicates(items)).toEqual(plain);
    }),
  );
});
