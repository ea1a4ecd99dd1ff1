import { expect, test } from '@jest/globals';
import { randomFrom } from '../../../core/platform/random';
import { isOdd, type ShownPath, shownPath } from '../../../core/platform/names';
import { pathToFileURL } from 'node:url';
import { diskPath, fileUrl, joinPath, nameFromBytes } from './names';

test('any bytes of a name come back as they were', () => {
  const random = randomFrom(11);
  for (let i = 0; i < 3000; i++) {
    const bytes = Buffer.from(
      Array.from({ length: 1 + Math.floor(random() * 12) }, () => 1 + Math.floor(random() * 255)),
    );
    const text = nameFromBytes(bytes);
    expect(Buffer.from(diskPath(text)).equals(bytes)).toBe(true);
  }
});

test('what is UTF-8 unchanged; what is not is shown by its bytes', () => {
  expect(nameFromBytes(Buffer.from('Rad 🌊.MP4'))).toBe('Rad 🌊.MP4');
  const odd = nameFromBytes(Buffer.from([0x63, 0xe9, 0x2e, 0x61]));
  expect([isOdd(odd), shownPath(odd)]).toEqual([true, 'c\\xE9.a']);
  // A private character that really is in a name is not taken for a byte.
  expect(Buffer.from(diskPath(nameFromBytes(Buffer.from('\uf7e9')))).equals(Buffer.from('\uf7e9'))).toBe(
    true,
  );
});

test('the compiler tells what is shown from what is on the disk, both ways', () => {
  const shown = shownPath('caf\uf7e9.MP4');
  expect(shown).toBe('caf\\xE9.MP4');
  // @ts-expect-error a name that was made to be shown is no path
  expect(diskPath(shown)).toBe('caf\\xE9.MP4');
  // @ts-expect-error nor is it joined to one
  expect(joinPath('/card', shown)).toBe('/card/caf\\xE9.MP4');
  // @ts-expect-error a path of the disk is not shown as it is
  const view: { path: ShownPath } = { path: 'caf\uf7e9.MP4' };
  expect(view.path).not.toBe(shown);
});

test('the address of a file holds every byte of its path', () => {
  expect(fileUrl('/m/Mühle 1/a#b?100%.mov')).toBe('file:///m/M%C3%BChle%201/a%23b%3F100%25.mov');
  expect(decodeURIComponent(new URL(fileUrl('/m/Mühle 1/a#b?100%.mov')).pathname)).toBe(
    '/m/Mühle 1/a#b?100%.mov',
  );
  expect(fileUrl(joinPath('/m', nameFromBytes(Buffer.from([0x61, 0xff, 0x2e]))))).toBe('file:///m/a%FF.');
  // As Node writes one of plain letters.
  expect(fileUrl('/m/A001 C001.MOV')).toBe(pathToFileURL('/m/A001 C001.MOV').href);
});
