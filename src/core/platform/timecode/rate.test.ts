import { describe, expect, test } from '@jest/globals';
import { countingRate, formatRate, mostFrequent, parseRate, rate, sameRate, STANDARD_RATES } from './rate';

describe('rate', () => {
  test('is kept in lowest terms and refuses what is no rate', () => {
    expect(rate(50, 2)).toEqual({ num: 25, den: 1 });
    expect(rate(60000, 2002)).toEqual({ num: 30000, den: 1001 });
    for (const [n, d] of [
      [0, 1],
      [25, 0],
      [-25, 1],
      [29.97, 1],
      [NaN, 1],
    ] as const)
      expect(() => rate(n, d)).toThrow(RangeError);
  });

  test.each([
    ['25', 25, 1],
    ['25/1', 25, 1],
    ['50p', 50, 1],
    ['30000/1001', 30000, 1001],
    ['29.97', 30000, 1001],
    ['23.98', 24000, 1001],
    ['23.976', 24000, 1001],
    ['59.94i', 60000, 1001],
    ['119.88', 120000, 1001],
    ['100', 100, 1],
    ['12.5', 25, 2],
    ['2997/100', 30000, 1001],
  ])('reads %s', (text, num, den) => expect(parseRate(text)).toEqual({ num, den }));

  test.each(['', '0/0', '0', '25/0', 'fast', '-25', '1e9', '25:00', '0.0'])('%j is no rate', (text) =>
    expect(parseRate(text)).toBeNull(),
  );

  test('every standard rate is read back from what is shown', () => {
    for (const r of STANDARD_RATES) expect(parseRate(formatRate(r))).toEqual(r);
  });

  test('the most frequent one, of equals the first', () => {
    expect(mostFrequent([rate(25), rate(50), rate(50)])).toEqual(rate(50));
    expect(mostFrequent([rate(30000, 1001), rate(30)])).toEqual(rate(30000, 1001));
    expect(mostFrequent([])).toBeNull();
  });

  test('30 and 29.97 are never the same, but count alike', () => {
    expect(sameRate(rate(30), rate(30000, 1001))).toBe(false);
    expect(countingRate(rate(30000, 1001))).toBe(30);
    expect(parseRate('30/1')).toEqual({ num: 30, den: 1 });
  });
});
