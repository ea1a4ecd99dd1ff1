const DIGITS = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz';

/** A C4 ID (SMPTE ST 2114): "c4" and the 64 bytes of a SHA-512, given as hexadecimal digits, as 88 base-58 digits. */
export function c4FromSha512(hex: string): string {
  let n = BigInt(`0x${hex}`);
  let out = '';
  while (n > 0n) {
    out = DIGITS[Number(n % 58n)]! + out;
    n /= 58n;
  }
  return `c4${out.padStart(88, '1')}`;
}
