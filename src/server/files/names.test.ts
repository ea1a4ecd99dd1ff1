import { expect, test } from '@jest/globals';
import { randomFrom } from '../../core/random';
import { isOdd, shownPath } from '../../core/names';
import { diskPath, nameFromBytes } from './names';

test('any bytes of a name come back as they were', () => {
  const random = randomFrom(11);
  for (let i = 0; i < 3000; i++) {
    const bytes = Buffer.from(Array.from({ length: 1 + Math.floor(random() * 12) }, () => 1 + Math.floor(random() * 255)));
    const text = nameFromBytes(bytes);
    expect(Buffer.from(diskPath(text)).equals(bytes)).toBe(true);
  }
});

test('what is UTF-8 stays as it is; what is not is shown by its bytes', () => {
  expect(nameFromBytes(Buffer.from('Rad 🌊.MP4'))).toBe('Rad 🌊.MP4');
  const odd = nameFromBytes(Buffer.from([0x63, 0xe9, 0x2e, 0x61]));
  expect([isOdd(odd), shownPath(odd)]).toEqual([true, 'c\\xE9.a']);
  // A private character that really stands in a name is not taken for a byte.
  expect(Buffer.from(diskPath(nameFromBytes(Buffer.from('\uf7e9')))).equals(Buffer.from('\uf7e9'))).toBe(true);
});
