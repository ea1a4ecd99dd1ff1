import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { Sleepers } from './sleepers';

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

test('two days without work: sleeping does not add up, and waking still wakes all', async () => {
  const sleepers = new Sleepers();
  let naps = 0;
  for (const end = (2 * 86_400_000) / 5000; naps < end; naps++) {
    const both = Promise.all([sleepers.sleep(5000), sleepers.sleep(5000)]);
    expect(sleepers.size).toBe(2);
    jest.advanceTimersByTime(5000);
    await both;
    expect(sleepers.size).toBe(0);
  }
  const woken = Promise.all(Array.from({ length: 6 }, () => sleepers.sleep(5000)));
  sleepers.wake();
  await woken;
  expect(sleepers.size).toBe(0);
});
