import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fitting, HEAD, layLines, lineOf, vertical } from './lines';
import { GAP, spineWidth } from './shelve';

const two = {
  groups: [
    { name: 'Day 1', clips: 5 },
    { name: 'Day 2', clips: 2 },
  ],
  heads: true,
};

describe('lines of clips', () => {
  test('each group begins anew, below its head', () => {
    const lines = layLines(two, 100, () => 3);
    expect(lines.map((l) => (l.kind === 'head' ? l.name : [l.from, l.to]))).toEqual([
      'Day 1',
      [0, 3],
      [3, 5],
      'Day 2',
      [5, 7],
    ]);
    expect(lines.map((l) => l.top)).toEqual([0, HEAD, HEAD + 100, HEAD + 200, 2 * HEAD + 200]);
  });

  test('without heads there are none; of nothing there are no lines', () => {
    expect(layLines({ ...two, heads: false }, 10, () => 9)).toHaveLength(2);
    expect(layLines({ groups: [{ name: '', clips: 0 }], heads: false }, 10, () => 9)).toEqual([]);
  });

  test('up and down keep the column, over heads and shorter lines', () => {
    const lines = layLines(two, 100, () => 3);
    expect(vertical(lines, 2, 1)).toBe(4);
    expect(vertical(lines, 4, 1)).toBe(6);
    expect(vertical(lines, 6, -1)).toBe(4);
    expect(vertical(lines, 1, -1)).toBe(1);
    expect(vertical(lines, 6, 1)).toBe(6);
  });

  test('every clip stands in one line, once, and is found there', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(20), { maxLength: 6 }),
        fc.integer({ min: 1, max: 7 }),
        fc.boolean(),
        (sizes, columns, heads) => {
          const groups = sizes.map((clips, i) => ({ name: `g${i}`, clips }));
          const lines = layLines({ groups, heads }, 50, () => columns);
          const n = sizes.reduce((a, b) => a + b, 0);
          for (let at = 0; at < n; at++) {
            const line = lines[lineOf(lines, at)]!;
            expect(line.kind === 'row' && line.from <= at && at < line.to).toBe(true);
          }
          expect(lineOf(lines, n)).toBe(-1);
          expect(lineOf(lines, -1)).toBe(-1);
        },
      ),
    );
  });

  test('spines side by side are no wider than their board', () => {
    const lengths = Array.from({ length: 60 }, (_, i) => (i % 7 === 0 ? null : (i * 37) % 900));
    const lines = layLines({ groups: [{ name: '', clips: 60 }], heads: false }, 10, fitting(lengths, 500));
    for (const line of lines) {
      if (line.kind === 'head') continue;
      const width = lengths.slice(line.from, line.to).reduce<number>((n, s) => n + spineWidth(s) + GAP, 0);
      expect(width).toBeLessThanOrEqual(500);
    }
    expect(layLines({ groups: [{ name: '', clips: 2 }], heads: false }, 10, fitting([9, 9], 5))).toHaveLength(
      2,
    );
  });
});
