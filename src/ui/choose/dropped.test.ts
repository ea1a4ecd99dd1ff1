import { expect, test } from '@jest/globals';
import { dropped } from './dropped';

const chosen = new Set(['a', 'b']);
const wheel = { id: 'w', name: 'wheel' };
const of = (dragged: object, over: object, more: object = {}) =>
  dropped(dragged, over, { chosen, here: null, copy: false, ...more });

test('a chosen clip takes all that are chosen with it, another goes alone', () => {
  expect(of({ clip: 'a' }, { into: 'bin' })).toEqual({
    do: 'putInBin',
    bin: 'bin',
    clips: ['a', 'b'],
    from: null,
  });
  expect(of({ clip: 'c' }, { into: 'bin' })).toMatchObject({ clips: ['c'] });
  expect(of({ clip: 'a' }, { keyword: wheel })).toEqual({
    do: 'addKeyword',
    clips: ['a', 'b'],
    name: 'wheel',
  });
});

test('on a string-out they are added at its end', () => {
  expect(of({ clip: 'a' }, { list: 'x' })).toEqual({
    do: 'addToStringOut',
    list: 'x',
    items: [{ clip: 'a' }, { clip: 'b' }],
  });
});

test('out of the bin that is shown clips move; with Ctrl they stay; out of none there is nothing to leave', () => {
  expect(of({ clip: 'c' }, { into: 'x' }, { here: 'y' })).toMatchObject({ from: 'y' });
  expect(of({ clip: 'c' }, { into: 'x' }, { here: 'y', copy: true })).toMatchObject({ from: null });
  expect(of({ clip: 'c' }, { into: 'x' }, { here: 'none' })).toMatchObject({ from: null });
  expect(of({ clip: 'c' }, { into: 'y' }, { here: 'y' })).toBeNull();
  expect(of({ clip: 'c' }, { into: null })).toBeNull();
});

test('a bin goes into a bin or to the top, never on itself; a keyword on a clip, or before another', () => {
  expect(of({ bin: 'x' }, { into: 'y' })).toEqual({ do: 'moveBins', bins: ['x'], into: 'y' });
  expect(of({ bin: 'x' }, { into: null })).toEqual({ do: 'moveBins', bins: ['x'], into: null });
  expect(of({ bin: 'x' }, { into: 'x' })).toBeNull();
  expect(of({ keyword: wheel }, { on: 'b' })).toEqual({
    do: 'addKeyword',
    clips: ['a', 'b'],
    name: 'wheel',
  });
  expect(of({ keyword: wheel }, { into: 'y' })).toBeNull();
  expect(of({ keyword: wheel }, { keyword: { id: 'g', name: 'gate' } })).toEqual({
    do: 'moveKeyword',
    keyword: 'w',
    before: 'g',
  });
  expect(of({ keyword: wheel }, { keyword: wheel })).toBeNull();
  expect(of({ clip: 'a' }, { on: 'b' })).toBeNull();
});
