import { expect, test } from '@jest/globals';
import { PathBelow } from './names';

test.each([
  ['./Card', 'Card'],
  ['Card/', 'Card'],
  ['Card//CLIP', 'Card/CLIP'],
  ['./././Card/./CLIP/.', 'Card/CLIP'],
  ['', ''],
  ['.', ''],
  ['..d/x', '..d/x'],
  ['a b/ c', 'a b/ c'],
])('a path below a root is always the same text: %j', (given, path) => {
  expect(PathBelow.parse(given)).toBe(path);
});
test.each(['/etc', '/Card', '../Card', 'a/../b'])('%j unchanged, to be refused where it is used', (path) =>
  expect(PathBelow.parse(path)).toBe(path),
);
