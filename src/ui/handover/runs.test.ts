import { expect, test } from '@jest/globals';
import { runsOf, WIDTH } from './runs';

test('events that are wide enough stand alone, each at its place', () => {
  expect(
    runsOf(
      [
        [0, 25, 0],
        [25, 50, 0],
        [75, 100, 4],
      ],
      100,
    ),
  ).toEqual([
    { from: 0, to: 250, verdict: 0, place: 0, events: 1 },
    { from: 250, to: 500, verdict: 0, place: 1, events: 1 },
    { from: 750, to: 1000, verdict: 4, place: 2, events: 1 },
  ]);
});

test('of thousands no more are drawn than fit, and each verdict among them is still there', () => {
  const events = Array.from({ length: 20_000 }, (_, i): [number, number, number] => [
    i * 10,
    i * 10 + 10,
    i % 1000 === 500 ? 4 : 0,
  ]);
  const runs = runsOf(events, 200_000);
  expect(runs.length).toBeLessThanOrEqual(2 * WIDTH);
  expect(runs.reduce((n, r) => n + r.events, 0)).toBe(20_000);
  const missing = runs.filter((r) => r.verdict === 4);
  expect(missing).toHaveLength(20);
  expect(missing[0]!.place).toBe(500);
  expect(missing[0]!.from).toBeCloseTo(25);
});
