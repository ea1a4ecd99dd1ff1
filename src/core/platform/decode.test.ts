import { expect, test } from '@jest/globals';
import { decodeText } from './decode';

const text = 'Mühle – “größer”';

test.each([
  ['UTF-8', Buffer.from(text)],
  ['UTF-8', Buffer.concat([Buffer.from([0xef, 0xbb, 0xbf]), Buffer.from(text)])],
  ['UTF-16', Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')])],
  ['UTF-16', Buffer.concat([Buffer.from([0xfe, 0xff]), Buffer.from(text, 'utf16le').swap16()])],
  // Dash and quotation marks stand in Windows-1252 where Latin-1 has none.
  [
    'Windows-1252',
    Buffer.from([
      0x4d,
      0xfc,
      ...Buffer.from('hle '),
      0x96,
      0x20,
      0x93,
      ...Buffer.from('gr'),
      0xf6,
      0xdf,
      ...Buffer.from('er'),
      0x94,
    ]),
  ],
] as const)('letters of %s are read as they were written', (as, bytes) => {
  expect(decodeText(bytes)).toEqual({ text, as });
});

test('of nothing there is no text', () => {
  expect(decodeText(new Uint8Array())).toEqual({ text: '', as: 'UTF-8' });
});
