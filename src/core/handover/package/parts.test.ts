import { expect, test } from '@jest/globals';
import { READY_RECIPES } from '../../proxies';
import { joinParts, madeFor, recipeForUsed, USED_RECIPE, VIEW_RECIPE } from './parts';

test('stretches get handles as far as the clip has them, and those that meet are one', () => {
  const parts = [
    { from: 50, to: 60 },
    { from: 2, to: 10 },
    { from: 90, to: 98 },
  ];
  expect(joinParts(parts, 5, 100)).toEqual([
    { from: 0, to: 15 },
    { from: 45, to: 65 },
    { from: 85, to: 100 },
  ]);
  expect(joinParts(parts, 18, 100)).toEqual([
    { from: 0, to: 28 },
    { from: 32, to: 100 },
  ]);
  expect(joinParts(parts, 0, 100)).toHaveLength(3);
  expect(
    joinParts(
      [
        { from: 0, to: 10 },
        { from: 10, to: 20 },
      ],
      0,
      100,
    ),
  ).toEqual([{ from: 0, to: 20 }]);
  // What a clip does not have is left out.
  expect(joinParts([{ from: 110, to: 120 }], 2, 100)).toEqual([]);
  expect(joinParts([{ from: -5, to: 8 }], 2, 100)).toEqual([{ from: 0, to: 10 }]);
});

test('of random stretches, every frame that is used is in one part, and no two parts meet', () => {
  for (let round = 0; round < 300; round++) {
    const frames = 1 + Math.floor(Math.random() * 400);
    const used = Array.from({ length: 1 + (round % 12) }, () => {
      const from = Math.floor(Math.random() * frames);
      return { from, to: from + 1 + Math.floor(Math.random() * (frames - from)) };
    });
    const handles = Math.floor(Math.random() * 30);
    const joined = joinParts(used, handles, frames);
    for (const u of used) {
      const inside = joined.filter(
        (p) => p.from <= Math.max(0, u.from - handles) && p.to >= Math.min(frames, u.to + handles),
      );
      expect(inside).toHaveLength(1);
    }
    for (const [i, p] of joined.entries()) {
      expect(p.from >= 0 && p.to <= frames).toBe(true);
      if (i > 0) expect(p.from).toBeGreaterThan(joined[i - 1]!.to);
    }
  }
});

test('frames that stand by themselves are cut, others encoded by the recipe that was chosen', () => {
  const chosen = READY_RECIPES.find((r) => r.name === USED_RECIPE)!;
  expect(READY_RECIPES.some((r) => r.name === VIEW_RECIPE)).toBe(true);
  const by = (extension: string, isInterFrame: boolean) => recipeForUsed({ extension, isInterFrame }, chosen);
  expect(by('.MP4', true)).toBe(chosen);
  expect(by('.MP4', false)).toMatchObject({ purpose: 'rewrap', container: 'mp4', video: { codec: 'copy' } });
  expect(by('.MXF', false)).toMatchObject({ purpose: 'rewrap', container: 'mov' });
});

test('what was made for a part is the least that has all of it', () => {
  const made = [
    { recipe: 'A, frames 1 to 100', part: { from: 0, to: 100 } },
    { recipe: 'A, frames 11 to 40', part: { from: 10, to: 40 } },
    { recipe: 'B, frames 11 to 40', part: { from: 10, to: 40 } },
    { recipe: 'A', part: null },
  ];
  expect(madeFor(made, 'A', { from: 12, to: 40 })).toBe(made[1]);
  expect(madeFor(made, 'A', { from: 12, to: 41 })).toBe(made[0]);
  expect(madeFor(made, 'B', { from: 0, to: 5 })).toBeUndefined();
  expect(madeFor(made, 'A', null)).toBe(made[3]);
  expect(madeFor(made, 'B', null)).toBeUndefined();
});
