import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { Refresher, withProgress } from './queries';

describe('asking again for what changed', () => {
  let asked: string[];
  let answer: (() => void)[];
  let refresher: Refresher;
  beforeEach(() => {
    jest.useFakeTimers();
    [asked, answer] = [[], []];
    refresher = new Refresher((key) => {
      asked.push(key);
      return new Promise<void>((resolve) => answer.push(resolve));
    });
  });
  afterEach(() => {
    jest.useRealTimers();
  });
  const pass = (ms: number) => jest.advanceTimersByTimeAsync(ms);

  test('at once; what comes while it is asked is asked once more, after a rest as long as the asking took', async () => {
    refresher.changed('wall');
    refresher.changed('wall');
    refresher.changed('wall');
    expect(asked).toEqual(['wall']);
    await pass(1500);
    answer[0]!();
    await pass(1400);
    expect(asked).toEqual(['wall']);
    await pass(200);
    expect(asked).toEqual(['wall', 'wall']);
    answer[1]!();
    await pass(5000);
    expect(asked).toEqual(['wall', 'wall']);
  });

  test('kinds do not wait for each other, and a change in the rest is not lost', async () => {
    refresher.changed('wall');
    refresher.changed('facts');
    expect(asked).toEqual(['wall', 'facts']);
    answer[0]!();
    await pass(10);
    refresher.changed('wall');
    expect(asked).toHaveLength(2);
    await pass(400);
    expect(asked).toEqual(['wall', 'facts', 'wall']);
  });

  test('the rest is two seconds at most, however long the asking took', async () => {
    refresher.changed('wall');
    refresher.changed('wall');
    await pass(30_000);
    answer[0]!();
    await pass(1900);
    expect(asked).toHaveLength(1);
    await pass(200);
    expect(asked).toHaveLength(2);
  });

  test('one that fails does not end it', async () => {
    let n = 0;
    const failing = new Refresher(() => Promise.reject(new Error(String(n++))));
    failing.changed('log');
    await pass(1000);
    failing.changed('log');
    expect(n).toBe(2);
  });
});

describe('progress', () => {
  const at = (id: string, progress: number) => ({ id, progress, speed: null });

  test('is that of the last time, by piece', () => {
    const now = withProgress(withProgress({}, [at('a', 0.1), at('b', 0.2)]), [at('a', 0.3)]);
    expect([now.a?.progress, now.b?.progress]).toEqual([0.3, 0.2]);
  });

  test('of thousands of pieces only what was heard of last is kept, and what still runs is', () => {
    let now = {};
    for (let n = 0; n < 3000; n++) now = withProgress(now, [at('long', n / 3000), at(`piece ${n}`, 1)]);
    expect(Object.keys(now)).toHaveLength(100);
    expect(now).toMatchObject({ long: { progress: 2999 / 3000 }, 'piece 2999': {} });
    expect(now).not.toHaveProperty('piece 0');
  });
});
