/** A text as it was written, and by which encoding it was read. */
export interface Decoded {
  text: string;
  as: 'UTF-8' | 'UTF-16' | 'Windows-1252';
}

/**
 * The text of a file that another program wrote: UTF-16 where its mark says so, UTF-8 where it is that, else Windows-1252, in which every byte
 * is a letter (encodings and marks by the WHATWG Encoding Standard, from memory). The mark is left out.
 */
export function decodeText(bytes: Uint8Array): Decoded {
  const [a, b] = bytes;
  if ((a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff))
    return { text: new TextDecoder(a === 0xff ? 'utf-16le' : 'utf-16be').decode(bytes), as: 'UTF-16' };
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), as: 'UTF-8' };
  } catch {
    return { text: fromWindows(bytes), as: 'Windows-1252' };
  }
}

/** What Windows-1252 has from 0x80 to 0x9F, where Latin-1 has no letters. Node 20's own decoder takes it for Latin-1. */
const HIGH = '€\x81‚ƒ„…†‡ˆ‰Š‹Œ\x8dŽ\x8f\x90‘’“”•–—˜™š›œ\x9džŸ';

const fromWindows = (bytes: Uint8Array): string =>
  Array.from(bytes, (b) => (b >= 0x80 && b < 0xa0 ? HIGH[b - 0x80]! : String.fromCharCode(b))).join('');
