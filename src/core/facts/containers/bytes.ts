const isUtf16 = (b: Uint8Array): boolean =>
  b.length >= 2 && ((b[0] === 0xfe && b[1] === 0xff) || (b[0] === 0xff && b[1] === 0xfe));

/** Text of unknown kind: UTF-16 where it begins with its mark, UTF-8 where it is that, else Latin-1. The mark is left out. */
export function decodeText(data: Uint8Array): string {
  if (isUtf16(data)) return new TextDecoder(data[0] === 0xfe ? 'utf-16be' : 'utf-16le').decode(data);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(data);
  } catch {
    return new TextDecoder('latin1').decode(data);
  }
}

/** Reads numbers and text from bytes, big-endian unless said. Reading past the end gives zeros and empty text: what a damaged file claims is never trusted to be there. */
export class Bytes {
  readonly #view: DataView;
  constructor(readonly data: Uint8Array) {
    this.#view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  }

  get length(): number {
    return this.data.length;
  }

  u8(at: number): number {
    return this.data[at] ?? 0;
  }

  u16(at: number, little = false): number {
    return at >= 0 && at + 2 <= this.length ? this.#view.getUint16(at, little) : 0;
  }

  i16(at: number): number {
    const n = this.u16(at);
    return n > 0x7fff ? n - 0x10000 : n;
  }

  u32(at: number, little = false): number {
    return at >= 0 && at + 4 <= this.length ? this.#view.getUint32(at, little) : 0;
  }

  i32(at: number): number {
    return this.u32(at) | 0;
  }

  /** 64 bits; Infinity where they are more than a double holds exactly. */
  u64(at: number, little = false): number {
    const [high, low] = little
      ? [this.u32(at + 4, true), this.u32(at, true)]
      : [this.u32(at), this.u32(at + 4)];
    return high > 0x1fffff ? Infinity : high * 2 ** 32 + low;
  }

  /** Bytes as Latin-1, one character each. */
  latin(from: number, to: number): string {
    let s = '';
    for (let i = Math.max(0, from); i < Math.min(to, this.length); i++)
      s += String.fromCharCode(this.data[i]!);
    return s;
  }

  /** Text of unknown kind, as `decodeText` reads it, up to the first zero. */
  text(from: number, to: number): string {
    const part = this.data.subarray(Math.max(0, from), Math.min(to, this.length));
    const zero = isUtf16(part) ? -1 : part.indexOf(0);
    return decodeText(zero >= 0 ? part.subarray(0, zero) : part).split('\0', 1)[0]!;
  }

  slice(from: number, to: number): Bytes {
    return new Bytes(this.data.subarray(Math.max(0, from), Math.max(0, Math.min(to, this.length))));
  }
}
