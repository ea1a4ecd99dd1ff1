import { describe, expect, test } from '@jest/globals';
import { secondsLeft } from './foreseen';

// Worked by hand.
describe('how long the queue still takes', () => {
  const measured = [
    { recipe: 'light', timesRealTime: 4 },
    { recipe: 'heavy', timesRealTime: 1 },
  ];
  const piece = (seconds: number | null, recipe: string | null, progress = 0) => ({
    seconds,
    recipe,
    progress,
  });

  test('is what is left of each piece at the speed of its recipe, two at once', () => {
    // 100 s half done at 4× are 12.5 s, 40 s at 4× are 10 s, 10 s at 1× are 10 s: 32.5 s of work, two at once.
    expect(
      secondsLeft([piece(100, 'light', 0.5), piece(40, 'light'), piece(10, 'heavy')], measured),
    ).toBeCloseTo(16.25);
  });

  test('is never less than its longest piece takes, and nothing where nothing is left', () => {
    expect(secondsLeft([piece(100, 'heavy'), piece(8, 'light')], measured)).toBe(100);
    expect(secondsLeft([], measured)).toBe(0);
  });

  test('goes by all that was made where a recipe is new, and is not known where nothing was made or a length is not known', () => {
    // 4× and 1× together: two seconds of footage in 1.25 s.
    expect(secondsLeft([piece(16, 'new')], measured)).toBeCloseTo(10);
    expect(secondsLeft([piece(16, null)], measured)).toBeCloseTo(10);
    expect(secondsLeft([piece(16, 'light')], [])).toBeNull();
    expect(secondsLeft([piece(null, 'light')], measured)).toBeNull();
  });
});
