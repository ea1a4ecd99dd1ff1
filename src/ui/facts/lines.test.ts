import { expect, test } from '@jest/globals';
import { layoutOf, lineAt, partsBetween } from './lines';

const grouped = layoutOf(
  {
    clips: 6,
    of: 9,
    groups: [
      { value: '25 fps', clips: 3 },
      { value: '50 fps', clips: 1 },
      { value: null, clips: 2 },
    ],
  },
  'rate',
);

test('without groups every line is a clip', () => {
  const plain = layoutOf({ clips: 6, of: 9, groups: null }, 'none');
  expect(plain.lines).toBe(6);
  expect(lineAt(plain, 5)).toEqual({ section: plain.sections[0], clip: 5 });
  expect(lineAt(plain, 6)).toBeNull();
});

test('each group has a head of its own, and asks for its clips only', () => {
  expect(grouped.lines).toBe(9);
  const at = Array.from({ length: 9 }, (_, i) => lineAt(grouped, i)!);
  expect(at.map((l) => [l.section.head, l.clip])).toEqual([
    ['25 fps', null],
    ['25 fps', 0],
    ['25 fps', 1],
    ['25 fps', 2],
    ['50 fps', null],
    ['50 fps', 0],
    ['not stated', null],
    ['not stated', 0],
    ['not stated', 1],
  ]);
  expect(grouped.sections.map((s) => s.only)).toEqual([
    [{ field: 'rate', value: '25 fps' }],
    [{ field: 'rate', value: '50 fps' }],
    [{ field: 'rate', value: null }],
  ]);
  const ofDays = layoutOf({ clips: 1, of: 1, groups: [{ value: '2', clips: 1 }] }, 'day');
  expect(ofDays.sections).toEqual([
    { from: 1, clips: 1, head: 'Day 2', only: [{ field: 'day', value: '2' }] },
  ]);
});

test('lines between two, from either end, are parts of their sections', () => {
  const parts = (a: number, b: number) =>
    partsBetween(grouped, a, b).map((p) => [p.section.head, p.offset, p.limit]);
  expect(parts(2, 7)).toEqual([
    ['25 fps', 1, 2],
    ['50 fps', 0, 1],
    ['not stated', 0, 1],
  ]);
  expect(parts(7, 2)).toEqual(parts(2, 7));
  expect(parts(0, 0)).toEqual([]);
  expect(parts(3, 3)).toEqual([['25 fps', 2, 1]]);
  expect(parts(0, 8)).toEqual([
    ['25 fps', 0, 3],
    ['50 fps', 0, 1],
    ['not stated', 0, 2],
  ]);
});
