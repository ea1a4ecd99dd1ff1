import baseX from 'base-x';

const base58 = baseX('123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz');

/** A C4 ID (SMPTE ST 2114): "c4" and the 64 bytes of a SHA-512, given as hexadecimal digits, as 88 base-58 digits. */
export function c4FromSha512(hex: string): string {
  const bytes = Uint8Array.from({ length: hex.length / 2 }, (_, i) =>
    parseInt(hex.slice(2 * i, 2 * i + 2), 16),
  );
  // A C4 ID is as long whatever the number; base 58 by itself writes one digit for each zero byte at the front.
  return `c4${base58.encode(bytes).replace(/^1+/, '').padStart(88, '1')}`;
}
