import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { isLeftOut } from './shapes';
import { Stillness } from './stillness';

const seen = (path: string, size: number, modified = 1) => ({ path, size, modified });

describe('what is still being written', () => {
  test('a file is whole once size and time have been the same for long enough', () => {
    const s = new Stillness(1000);
    s.look(0, [seen('a', 10)]);
    expect(s.isWhole('a', 0)).toBe(false);
    s.look(900, [seen('a', 10)]);
    expect(s.isWhole('a', 900)).toBe(false);
    s.look(1000, [seen('a', 10)]);
    expect(s.isWhole('a', 1000)).toBe(true);
    // It grows, or is touched: the wait begins anew.
    s.look(1100, [seen('a', 11)]);
    expect(s.isWhole('a', 1100)).toBe(false);
    s.look(2200, [seen('a', 11, 2)]);
    expect(s.isWhole('a', 2200)).toBe(false);
    s.look(3200, [seen('a', 11, 2)]);
    expect(s.isWhole('a', 3200)).toBe(true);
  });

  test('one that a process writes to is not, though it has not grown; nor an empty one, nor one that went and came', () => {
    const s = new Stillness(1000);
    s.look(0, [seen('a', 10), seen('empty', 0)]);
    s.look(2000, [seen('a', 10), seen('empty', 0)]);
    s.touch(2000, ['a', 'elsewhere']);
    expect(s.isWhole('a', 2000)).toBe(false);
    expect(s.isWhole('empty', 2000)).toBe(false);
    s.look(3000, [seen('a', 10), seen('empty', 0)]);
    expect(s.isWhole('a', 3000)).toBe(true);
    s.look(3100, []);
    expect(s.isWhole('a', 3100)).toBe(false);
    s.look(3200, [seen('a', 10)]);
    expect(s.isWhole('a', 3200)).toBe(false);
  });

  test('a folder is whole when all of it is', () => {
    const s = new Stillness(1000);
    s.look(0, [seen('CARD/a', 1), seen('CARD/b', 1), seen('CARDS/c', 1)]);
    s.look(1000, [seen('CARD/a', 1), seen('CARD/b', 1), seen('CARDS/c', 2)]);
    expect(s.isWholeBelow('CARD', 1000)).toBe(true);
    expect(s.isWholeBelow('', 1000)).toBe(false);
    expect(s.movingFiles(1000)).toEqual(['CARDS/c']);
    expect(s.movingFiles(2000)).toEqual([]);
    expect(s.nextWhole(2000)).toBe(null);
  });

  test('a look into some folders leaves the others as they were', () => {
    const s = new Stillness(1000);
    s.look(0, [seen('a', 1), seen('CARD/b', 1), seen('CARD/c', 1), seen('CARD/IN/d', 1)]);
    s.look(500, [seen('CARD/b', 1), seen('CARD/c', 2), seen('CARD/e', 1)], new Set(['CARD', 'GONE']));
    expect(s.movingFiles(1000)).toEqual(['CARD/c', 'CARD/e']);
    expect(s.nextWhole(1100)).toBe(400);
    expect(['a', 'CARD/b', 'CARD/IN/d'].map((p) => s.isWhole(p, 1000))).toEqual([true, true, true]);
    expect(s.isWholeBelow('CARD/IN', 1000)).toBe(true);
    expect(s.isWholeBelow('CARD', 1000)).toBe(false);
    s.look(1000, [], new Set(['CARD']));
    expect(s.movingFiles(1000)).toEqual([]);
    expect(['a', 'CARD/b', 'CARD/IN/d'].map((p) => s.isWhole(p, 1000))).toEqual([true, false, true]);
  });

  test('whatever the looks: none is whole before its last change is long enough ago', () => {
    const step = fc.record({
      wait: fc.integer({ min: 1, max: 700 }),
      size: fc.integer({ min: 1, max: 3 }),
      modified: fc.integer({ min: 0, max: 2 }),
    });
    fc.assert(
      fc.property(fc.array(step, { minLength: 1, maxLength: 30 }), (steps) => {
        const s = new Stillness(1000);
        let now = 0;
        let changed = 0;
        let before = '';
        for (const { wait, size, modified } of steps) {
          now += wait;
          if (before !== `${size} ${modified}`) changed = now;
          before = `${size} ${modified}`;
          s.look(now, [seen('a', size, modified)]);
          expect(s.isWhole('a', now)).toBe(now - changed >= 1000);
        }
      }),
    );
  });
});

test('folders are left out by a word in their name, hidden ones always; a file’s own name does not count', () => {
  for (const p of ['Proxies/a.mov', 'Day 1/My PROXIES here/a.mov', '.trash/a.mov', 'a/.x/b.mov'])
    expect(isLeftOut(p, ['proxies'])).toBe(true);
  for (const p of ['a.mov', 'Day 1/proxies.mov', 'Day 1/a.mov'])
    expect(isLeftOut(p, ['proxies'])).toBe(false);
  expect(isLeftOut('Proxies/a.mov', [])).toBe(false);
});
