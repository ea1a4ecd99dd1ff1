import path from 'node:path';
import {
  byteOf,
  type DiskPath,
  escapedByte,
  isOdd,
  type ShownPath,
  shownPath,
} from '../../../core/platform/names';

const utf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/** A name's bytes as text that gives the same bytes back (`diskPath`). */
export function nameFromBytes(bytes: Uint8Array): string {
  try {
    const text = utf8.decode(bytes);
    if (!isOdd(text)) return text;
  } catch {
    // Falls through to one character at a time.
  }
  let out = '';
  for (let i = 0; i < bytes.length;) {
    const lead = bytes[i]!;
    const length = lead < 0x80 ? 1 : lead >= 0xf0 ? 4 : lead >= 0xe0 ? 3 : lead >= 0xc0 ? 2 : 0;
    let character = '';
    try {
      if (length > 0 && i + length <= bytes.length) character = utf8.decode(bytes.subarray(i, i + length));
    } catch {
      character = '';
    }
    if (character === '' || isOdd(character)) {
      // A private character that really is in a name is carried byte by byte as well.
      out += escapedByte(lead);
      i++;
    } else {
      out += character;
      i += length;
    }
  }
  return out;
}

/** A path as the file system takes it: the text itself, or its bytes where some of them are no text. */
export function diskPath(file: DiskPath): string | Buffer {
  if (!isOdd(file)) return file;
  return Buffer.concat(
    [...file].map((c) => {
      const byte = byteOf(c);
      return byte === null ? Buffer.from(c, 'utf8') : Buffer.from([byte]);
    }),
  );
}

/** A file's name as a person can read it. */
export const shownName = (file: DiskPath): ShownPath => shownPath(path.basename(file));

/** Joins paths as the disk has them. In place of `path.join`, which takes what was made to be shown as well. */
export const joinPath = (...parts: DiskPath[]): DiskPath => path.join(...parts);

const UNRESERVED = /[\w.~/-]/;

/** A path in an address, each byte that is not plain ASCII written as RFC 3986 has it. */
const inAddress = (file: DiskPath): string =>
  [...Buffer.from(diskPath(file))]
    .map((b) => {
      const character = String.fromCharCode(b);
      return UNRESERVED.test(character) ? character : `%${b.toString(16).toUpperCase().padStart(2, '0')}`;
    })
    .join('');

/** The address of a file (RFC 8089). */
export const fileUrl = (file: DiskPath): string => `file://${inAddress(file)}`;

/** The address of a file below the folder in which it is written down (RFC 3986, 4.2: nothing in it is taken for a scheme). */
export const relativeUrl = (place: DiskPath): string => inAddress(place);
