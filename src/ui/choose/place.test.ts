import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addressOf, LARGEST, type Place, placeOf, SMALLEST } from './place';

const place = fc.record({
  wanted: fc.record({
    query: fc.string({ unit: 'grapheme', maxLength: 40 }),
    bin: fc.option(fc.constantFrom('none', 'a-bin')),
    by: fc.constantFrom('none' as const, 'day' as const, 'keyword' as const),
    sort: fc.option(fc.record({ by: fc.constantFrom('rate', 'name'), down: fc.boolean() })),
  }),
  view: fc.constantFrom('frames' as const, 'spines' as const, 'table' as const),
  size: fc.integer({ min: SMALLEST, max: LARGEST }),
  clip: fc.option(fc.constant('a clip & more')),
  list: fc.option(fc.constant('a-list')),
}) satisfies fc.Arbitrary<Place>;

test('an address says the place it was made of', () => {
  fc.assert(fc.property(place, (p) => expect(placeOf(new URLSearchParams(addressOf(p)))).toEqual(p)));
});

test('what an address says wrong is as at first', () => {
  const wrong = placeOf(
    new URLSearchParams(`by=colour&as=cards&size=9&sort=nothing&find=${'x'.repeat(5000)}`),
  );
  expect(addressOf(wrong)).toBe('');
});
