import { beforeEach, describe, expect, test } from '@jest/globals';
import { ViewCache } from './viewCache';

describe('answers that are kept', () => {
  let events: { revision: number; revisionOf: (what: readonly string[]) => number };
  let cache: ViewCache;
  let asked: number;
  const ask = (name = 'wall') => cache.get(name, () => Promise.resolve(++asked));
  beforeEach(() => {
    events = { revision: 0, revisionOf: () => 0 };
    cache = new ViewCache(events);
    asked = 0;
  });

  test('are given again until something changes', async () => {
    expect([await ask(), await ask()]).toEqual([1, 1]);
    events.revision++;
    expect([await ask(), await ask()]).toEqual([2, 2]);
  });

  test('of some topics only until one of these changes', async () => {
    let cards = 0;
    events.revisionOf = (what) => (what.includes('cards') ? cards : 0);
    const some = () => cache.get('some', () => Promise.resolve(++asked), ['cards']);
    await some();
    events.revision++;
    expect([await some(), await ask()]).toEqual([1, 2]);
    cards++;
    expect(await some()).toBe(3);
  });

  test('one that was found out otherwise is given until something changes', async () => {
    expect(cache.peek('wall')).toBeNull();
    cache.put('wall', Promise.resolve(7));
    expect([await cache.peek('wall'), await ask()]).toEqual([7, 7]);
    events.revision++;
    expect(cache.peek('wall')).toBeNull();
    expect(await ask()).toBe(1);
  });

  test('are worked out once for all who ask at the same time, and apart by name', async () => {
    expect(await Promise.all([ask(), ask(), ask('clocks')])).toEqual([1, 1, 2]);
  });

  test('an answer begun before a change is not given to who asks after it', async () => {
    let finish: (n: string) => void = () => undefined;
    const slow = cache.get(
      'wall',
      () =>
        new Promise<string>((resolve) => {
          finish = resolve;
        }),
    );
    events.revision++;
    const fresh = cache.get('wall', () => Promise.resolve('after'));
    finish('before');
    expect([await slow, await fresh, await cache.get('wall', () => Promise.resolve('again'))]).toEqual([
      'before',
      'after',
      'after',
    ]);
  });

  test('a failure is not kept', async () => {
    await expect(cache.get('wall', () => Promise.reject(new Error('the volume is gone')))).rejects.toThrow(
      'gone',
    );
    expect(await ask()).toBe(1);
  });

  test('no more than some are kept: the oldest goes', async () => {
    for (let i = 0; i < 80; i++) await ask(`facts ${i}`);
    await ask('facts 79');
    expect(asked).toBe(80);
    await ask('facts 0');
    expect(asked).toBe(81);
  });
});
