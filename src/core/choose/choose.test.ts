import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { rate } from '../platform/timecode/rate';
import { above, DEEPEST_BIN, moveFault, withInside } from './bin';
import { completeKeyword, keywordKey, LONGEST_NAME, tidyName } from './keyword';
import { countOf, nudged, spanFault, spanTimes } from './range';

describe('keywords', () => {
  test.each([
    [' the  wheel\n', 'the wheel'],
    ['e\u0301cluse', 'écluse'],
    ['\t', null],
    ['x'.repeat(LONGEST_NAME), 'x'.repeat(LONGEST_NAME)],
    ['x'.repeat(LONGEST_NAME + 1), null],
    ['𝔸'.repeat(LONGEST_NAME), '𝔸'.repeat(LONGEST_NAME)],
    ['a\u0000b', 'a b'],
  ])('%j is kept as %j', (typed, kept) => {
    expect(tidyName(typed)).toBe(kept);
  });

  test('differing in case or Unicode form only they are one; accents tell them apart', () => {
    expect(new Set(['Écluse', 'écluse', 'E\u0301CLUSE'].map(keywordKey)).size).toBe(1);
    expect(keywordKey('ecluse')).not.toBe(keywordKey('écluse'));
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 20 }), (s) => {
        const key = keywordKey(s);
        expect(keywordKey(s.normalize('NFD'))).toBe(key);
        expect(keywordKey(key)).toBe(key);
      }),
    );
  });

  test('completion: what begins so, then words that do, the most used first', () => {
    const known = [
      { name: 'wheel', clips: 3 },
      { name: 'Wide', clips: 9 },
      { name: 'mill wall', clips: 1 },
      { name: 'low', clips: 50 },
      { name: 'gate', clips: 9 },
    ];
    expect(completeKeyword(known, 'w').map((k) => k.name)).toEqual(['Wide', 'wheel', 'mill wall', 'low']);
    expect(completeKeyword(known, 'x')).toEqual([]);
  });
});

describe('ranges', () => {
  test.each([
    [0, 10, 10, null],
    [9, 10, 10, null],
    [0, 11, 10, 'the clip has 10 frames'],
    [-1, 3, 10, 'the clip has 10 frames'],
    [3, 3, 10, 'the out point is not after the in point'],
    [4, 3, 10, 'the out point is not after the in point'],
    [0.5, 3, 10, 'the out point is not after the in point'],
    [0, 3, null, 'its length is not known'],
  ])('from %p to %p of %p frames: %p', (from, to, frames, fault) => {
    expect(spanFault({ from, to }, frames)).toBe(fault);
  });

  test('nudged, an end stays inside the clip and behind the other', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.nat(499),
        fc.nat(499),
        fc.constantFrom('from' as const, 'to' as const),
        fc.integer({ min: -1000, max: 1000 }),
        (frames, a, b, end, by) => {
          const from = Math.min(a, b, frames - 1);
          const to = Math.max(from + 1, Math.min(frames, Math.max(a, b)));
          const moved = nudged({ from, to }, end, by, frames);
          expect(spanFault(moved, frames)).toBeNull();
          const other = end === 'from' ? 'to' : 'from';
          expect(moved[other]).toBe({ from, to }[other]);
        },
      ),
    );
  });

  // Worked by hand; of drop-frame by SMPTE ST 12-1: two numbers are left out each minute but the tenth.
  test.each([
    ['10:00:00:00', rate(25), 50, 75, '10:00:02:00', '10:00:02:24', 1],
    ['00:59:59;28', rate(30000, 1001), 0, 4, '00:59:59;28', '01:00:00;01', 4.004 / 30],
    ['00:00:59;29', rate(30000, 1001), 1, 2, '00:01:00;02', '00:01:00;02', 1.001 / 30],
    ['00:00:59;58', rate(60000, 1001), 2, 3, '00:01:00;04', '00:01:00;04', 1.001 / 60],
    ['23:59:59:23', rate(24), 0, 2, '23:59:59:23', '00:00:00:00', 1 / 12],
    [null, rate(50), 100, 150, '00:00:02:00', '00:00:02:49', 1],
  ])('from %s at %j, frames %p to %p: %s to %s', (start, r, from, to, first, last, seconds) => {
    const times = spanTimes({ from, to }, { start, rate: r })!;
    expect([times.first, times.last]).toEqual([first, last]);
    expect(times.seconds).toBeCloseTo(seconds, 9);
  });

  test('of a clip whose rate is not known there are no times', () => {
    expect(spanTimes({ from: 0, to: 1 }, { start: null, rate: null })).toBeNull();
  });
});

test('ranges count frames of pictures, 25 a second of sound alone, and one of a still', () => {
  const pal = rate(25);
  const none = { rate: null, frames: null, seconds: null, start: null };
  const film = { kind: 'video', rate: rate(50), frames: 100, seconds: 2, start: '10:00:00:00' } as const;
  expect(countOf(film)).toEqual({ rate: rate(50), frames: 100, start: '10:00:00:00' });
  expect(countOf({ kind: 'video', ...none })).toBeNull();
  // Its timecode may count otherwise: sound is counted from its own beginning.
  expect(countOf({ kind: 'sound', ...none, seconds: 10.01, start: '10:00:00:00' })).toEqual({
    rate: pal,
    frames: 251,
    start: null,
  });
  expect(countOf({ kind: 'sound', ...none })).toBeNull();
  expect(countOf({ kind: 'still', ...none })).toEqual({ rate: pal, frames: 1, start: null });
});

describe('bins', () => {
  const bins = [
    { id: 'a', parent: null },
    { id: 'b', parent: 'a' },
    { id: 'c', parent: 'b' },
    { id: 'd', parent: null },
  ];
  test('above and inside', () => {
    expect(above(bins, 'c')).toEqual(['b', 'a']);
    expect(withInside(bins, 'a')).toEqual(['a', 'b', 'c']);
  });

  test('none is moved into itself or into what stands in it', () => {
    expect(moveFault(bins, 'a', 'a')).toBe('A bin cannot stand in itself.');
    expect(moveFault(bins, 'a', 'c')).toBe('A bin cannot stand in one that stands in it.');
    expect(moveFault(bins, 'a', 'd')).toBeNull();
    expect(moveFault(bins, 'c', null)).toBeNull();
  });

  test('nor deeper than may be, with what stands in it', () => {
    const chain = Array.from({ length: DEEPEST_BIN }, (_, i) => ({
      id: `n${i}`,
      parent: i === 0 ? null : `n${i - 1}`,
    }));
    const more = [...chain, ...bins];
    expect(moveFault(more, 'd', `n${DEEPEST_BIN - 2}`)).toBeNull();
    expect(moveFault(more, 'd', `n${DEEPEST_BIN - 1}`)).toContain('deep at most');
    expect(moveFault(more, 'a', `n${DEEPEST_BIN - 4}`)).toBeNull();
    expect(moveFault(more, 'a', `n${DEEPEST_BIN - 3}`)).toContain('deep at most');
  });

  test('a ring that cannot be does not hang', () => {
    const ring = [
      { id: 'a', parent: 'b' },
      { id: 'b', parent: 'a' },
    ];
    expect(above(ring, 'a')).toEqual(['b', 'a']);
    expect(withInside(ring, 'a')).toEqual(['a', 'b']);
  });
});
