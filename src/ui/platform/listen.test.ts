import { expect, test } from '@jest/globals';
import { mayHaveMissed } from './listen';

test.each([
  ['a line that opens long after the last change', 0, 500, 60_000, false],
  ['a change between the first asking and the opening', 0, 500, 300, true],
  ['a change just before the first asking, which may not have been told yet', 0, 500, 1200, true],
  ['one that was told before the line was lost', 10_000, 14_000, 6000, false],
  ['one while it was lost', 10_000, 14_000, 2000, true],
  ['a server that began anew meanwhile, without a change since', 10_000, 14_000, 3000, true],
])('%s', (_, heard, now, quiet, missed) => {
  expect(mayHaveMissed(heard, now, quiet)).toBe(missed);
});
