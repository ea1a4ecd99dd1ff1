import { expect, test } from '@jest/globals';
import { formatBytes, formatDay, formatLeft, plural } from './format';

test('bytes in decimal units', () => {
  expect([0, 999, 1000, 43_640_000, 999_700, 1.2e12, 44.4e9].map(formatBytes)).toEqual([
    '0 B',
    '999 B',
    '1.0 kB',
    '44 MB',
    '1.0 MB',
    '1.2 TB',
    '44 GB',
  ]);
});

test('days, numbers and time left', () => {
  expect([formatDay('2026-05-05'), formatDay(null)]).toEqual(['Tue 5 May', 'no date']);
  expect([plural(1, 'clip'), plural(0, 'clip'), plural(1200, 'family', 'families')]).toEqual([
    '1 clip',
    '0 clips',
    '1,200 families',
  ]);
  expect([1, 39.6, 59.9, 240, 4200].map(formatLeft)).toEqual([
    'a moment',
    '40 s',
    '60 s',
    '4 min',
    '1 h 10 min',
  ]);
});
