import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { AfterChanges } from './afterChanges';
import { Events } from './events';

let events: Events;
let done: number;
let work: () => Promise<void>;
let after: Pick<AfterChanges, 'begin' | 'end'>;
beforeEach(() => {
  jest.useFakeTimers();
  [events, done, work] = [new Events(), 0, () => Promise.resolve()];
  after = new AfterChanges('test', events, ['clips'], async () => {
    done++;
    await work();
  });
  after.begin();
});
afterEach(async () => {
  await after.end();
  jest.useRealTimers();
});
const pass = (ms: number) => jest.advanceTimersByTimeAsync(ms);

test('a change is heeded soon, and many at once', async () => {
  await pass(1000);
  expect(done).toBe(1);
  events.changed('clips');
  events.changed('clips');
  await pass(1000);
  expect(done).toBe(2);
  events.changed('log');
  await pass(10_000);
  expect(done).toBe(2);
});

test('after long work it rests, but not without end', async () => {
  work = () => new Promise((resolve) => setTimeout(resolve, 3_600_000));
  await pass(700 + 3_600_000);
  work = () => Promise.resolve();
  events.changed('clips');
  await pass(290_000);
  expect(done).toBe(1);
  await pass(11_000);
  expect(done).toBe(2);
});

test.each([
  ['forward, while it works', 86_400_000, 0],
  ['back, while it rests', 0, -7_200_000],
])('a clock that is set %s changes nothing', async (_, meanwhile, later) => {
  work = () => {
    jest.setSystemTime(Date.now() + meanwhile);
    return Promise.resolve();
  };
  await pass(1000);
  jest.setSystemTime(Date.now() + later);
  events.changed('clips');
  await pass(1000);
  expect(done).toBe(2);
});
