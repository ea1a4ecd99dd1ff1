import { expect, test } from '@jest/globals';
import { fieldOf } from '../../core/facts/catalogue';
import { isNumeric, widthOf } from './columns';

test('a column is as wide as what stands in it, its heading at least, and never without bounds', () => {
  const empty = widthOf('iso', []);
  expect(empty).toBeGreaterThanOrEqual(74);
  expect(widthOf('recordedAt', [])).toBeGreaterThan(fieldOf('recordedAt').term.length * 6);
  expect(widthOf('iso', ['a'.repeat(20)])).toBeGreaterThan(empty);
  expect(widthOf('iso', ['a'.repeat(400)])).toBe(300);
  // In a browser that sets letters to whole pixels, with 10 of them on either side.
  const moment = '2026-05-05 07:48:10';
  expect(widthOf('recordedAt', [moment])).toBeGreaterThanOrEqual(8 * moment.length + 20);
});

test('numbers stand at the right', () => {
  expect((['rate', 'frames', 'length', 'shutter'] as const).map(isNumeric)).toEqual([true, true, true, true]);
  expect((['start', 'codec', 'recordedAt'] as const).map(isNumeric)).toEqual([false, false, false]);
});
