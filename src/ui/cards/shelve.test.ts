import { describe, expect, test } from '@jest/globals';
import { GAP, shelve, spineWidth } from './shelve';

describe('shelves', () => {
  const clips = Array.from({ length: 500 }, (_, i) => ({
    id: i,
    seconds: i % 7 === 0 ? null : (i * 37) % 4000,
  }));

  test('a longer take is never thinner, and every spine can be pointed at', () => {
    const widths = [null, 0, 1, 5, 60, 600, 3600, 86_400].map(spineWidth);
    expect(widths).toEqual([...widths].sort((a, b) => a - b));
    expect(Math.min(...widths)).toBeGreaterThanOrEqual(38);
    expect(Math.max(...widths)).toBeLessThanOrEqual(150);
  });

  test('no shelf is wider than it is, and the order is kept', () => {
    const rows = shelve(clips, 720);
    for (const row of rows)
      expect(row.reduce((n, c) => n + spineWidth(c.seconds) + GAP, 0)).toBeLessThanOrEqual(720);
    expect(rows.flat().map((c) => c.id)).toEqual(clips.map((c) => c.id));
  });

  test('a shelf too narrow for any spine holds one all the same', () => {
    expect(shelve(clips.slice(0, 3), 10).map((r) => r.length)).toEqual([1, 1, 1]);
    expect(shelve([], 700)).toEqual([]);
  });
});
