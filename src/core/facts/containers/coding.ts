import { Bytes } from './bytes';

/** Chroma sampling and bit depth; `null` each where it is not told. */
export interface Sampling {
  chroma: string | null;
  bitDepth: number | null;
}

/** What a decoder configuration tells. `level` as the standards write it (4.1); `progressive` is `null` where the pictures may be fields. */
export interface Coding extends Sampling {
  profile: string | null;
  level: number | null;
  progressive: boolean | null;
}

const CHROMA = ['4:0:0', '4:2:0', '4:2:2', '4:4:4'];

/** Exponential-Golomb codes of a byte string from which the emulation bytes are taken (ITU-T H.264, 7.3 and 9.1; from memory). */
class Bits {
  #at = 0;
  readonly #data: Uint8Array;
  constructor(data: Uint8Array) {
    const out: number[] = [];
    for (let i = 0; i < data.length; i++)
      if (!(i >= 2 && data[i] === 3 && data[i - 1] === 0 && data[i - 2] === 0)) out.push(data[i]!);
    this.#data = Uint8Array.from(out);
  }

  bits(n: number): number {
    let v = 0;
    for (; n > 0; n--, this.#at++)
      v = v * 2 + (((this.#data[this.#at >> 3] ?? 0) >> (7 - (this.#at & 7))) & 1);
    return v;
  }

  ue(): number {
    let zeros = 0;
    while (zeros < 31 && this.bits(1) === 0) zeros++;
    return 2 ** zeros - 1 + this.bits(zeros);
  }

  se(): number {
    const n = this.ue();
    return n % 2 === 1 ? (n + 1) / 2 : -n / 2;
  }
}

/** Profiles whose parameter sets state chroma and depth; the others are 4:2:0 with 8 bits. */
const HIGH = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128]);
const AVC_PROFILES: Record<number, string> = {
  66: 'Baseline',
  77: 'Main',
  88: 'Extended',
  100: 'High',
  110: 'High 10',
  122: 'High 4:2:2',
  244: 'High 4:4:4 Predictive',
};
const HEVC_PROFILES: Record<number, string> = { 1: 'Main', 2: 'Main 10', 3: 'Main Still Picture', 4: 'Rext' };

/** What a decoder configuration says of the picture: ISO/IEC 14496-15 for `avcC` and `hvcC`, the AV1 and VP9 bindings for the others (from memory). */
export function samplingOf(config: { type: string; data: Uint8Array }): Coding {
  const b = new Bytes(config.data);
  const nothing: Coding = { chroma: null, bitDepth: null, profile: null, level: null, progressive: null };
  if (config.type === 'avcC' && b.length >= 8) {
    const [idc, flags] = [b.u8(1), b.u8(2)];
    const name = idc === 66 && (flags & 0x40) !== 0 ? 'Constrained Baseline' : (AVC_PROFILES[idc] ?? null);
    const said = {
      profile: name && (flags & 0x10) !== 0 && idc >= 110 && idc <= 244 ? `${name} Intra` : name,
      level: b.u8(3) / 10,
    };
    const length = b.u16(6);
    if ((b.u8(5) & 0x1f) === 0 || length < 5 || 8 + length > b.length) return { ...nothing, ...said };
    return { ...said, ...parameterSet(new Bits(config.data.subarray(9, 8 + length))) };
  }
  if (config.type === 'hvcC' && b.length >= 23) {
    return {
      chroma: CHROMA[b.u8(16) & 3] ?? null,
      bitDepth: (b.u8(17) & 7) + 8,
      profile: HEVC_PROFILES[b.u8(1) & 31] ?? null,
      level: b.u8(12) / 30,
      progressive: (b.u8(6) & 0xc0) === 0x80 ? true : null,
    };
  }
  if (config.type === 'av1C' && b.length >= 4) {
    const flags = b.u8(2);
    const chroma =
      (flags & 0x10) !== 0 ? '4:0:0' : (flags & 8) === 0 ? '4:4:4' : (flags & 4) === 0 ? '4:2:2' : '4:2:0';
    return {
      ...nothing,
      chroma,
      bitDepth: (flags & 0x40) === 0 ? 8 : (flags & 0x20) !== 0 ? 12 : 10,
      profile: ['Main', 'High', 'Professional'][b.u8(1) >> 5] ?? null,
    };
  }
  if (config.type === 'vpcC' && b.length >= 8)
    return {
      ...nothing,
      chroma: ['4:2:0', '4:2:0', '4:2:2', '4:4:4'][(b.u8(6) >> 1) & 7] ?? null,
      bitDepth: b.u8(6) >> 4,
      profile: `Profile ${b.u8(4)}`,
    };
  return nothing;
}

/** The first fields of an H.264 sequence parameter set, up to whether its pictures are whole frames (7.3.2.1.1). */
function parameterSet(sps: Bits): Sampling & { progressive: boolean | null } {
  const idc = sps.bits(8);
  sps.bits(16);
  sps.ue();
  let [chroma, depth] = [1, 8];
  if (HIGH.has(idc)) {
    chroma = sps.ue();
    if (chroma === 3) sps.bits(1);
    depth = sps.ue() + 8;
    sps.ue();
    sps.bits(1);
    if (sps.bits(1) === 1) skipScaling(sps, chroma === 3 ? 12 : 8);
  }
  sps.ue();
  const order = sps.ue();
  if (order === 0) sps.ue();
  else if (order === 1) {
    sps.bits(1);
    sps.ue();
    sps.ue();
    for (let i = Math.min(255, sps.ue()); i > 0; i--) sps.ue();
  }
  sps.ue();
  sps.bits(1);
  sps.ue();
  sps.ue();
  return {
    chroma: CHROMA[chroma] ?? null,
    bitDepth: depth <= 14 ? depth : null,
    progressive: sps.bits(1) === 1 ? true : null,
  };
}

function skipScaling(sps: Bits, lists: number): void {
  for (let list = 0; list < lists; list++) {
    if (sps.bits(1) === 0) continue;
    let [last, next] = [8, 8];
    for (let i = 0; i < (list < 6 ? 16 : 64) && next !== 0; i++) {
      next = (last + sps.se() + 256) % 256;
      if (next !== 0) last = next;
    }
  }
}

/** ProRes by its four-character code (SMPTE RDD 36): which member of the family, and its sampling as decoders give it. */
export const PRORES: Record<string, Sampling & { profile: string }> = {
  apco: { profile: 'Proxy', chroma: '4:2:2', bitDepth: 10 },
  apcs: { profile: 'LT', chroma: '4:2:2', bitDepth: 10 },
  apcn: { profile: 'Standard', chroma: '4:2:2', bitDepth: 10 },
  apch: { profile: 'HQ', chroma: '4:2:2', bitDepth: 10 },
  ap4h: { profile: '4444', chroma: '4:4:4', bitDepth: 12 },
  ap4x: { profile: 'XQ', chroma: '4:4:4', bitDepth: 12 },
};

/** Names of H.273 codes as FFmpeg prints them, which the trade reads everywhere. Codes without a name say nothing. */
export const H273 = {
  primaries: {
    1: 'bt709',
    4: 'bt470m',
    5: 'bt470bg',
    6: 'smpte170m',
    7: 'smpte240m',
    8: 'film',
    9: 'bt2020',
    10: 'smpte428',
    11: 'smpte431',
    12: 'smpte432',
    22: 'ebu3213',
  } as Record<number, string>,
  transfer: {
    1: 'bt709',
    4: 'bt470m',
    5: 'bt470bg',
    6: 'smpte170m',
    7: 'smpte240m',
    8: 'linear',
    9: 'log100',
    10: 'log316',
    11: 'iec61966-2-4',
    12: 'bt1361e',
    13: 'iec61966-2-1',
    14: 'bt2020-10',
    15: 'bt2020-12',
    16: 'smpte2084',
    17: 'smpte428',
    18: 'arib-std-b67',
  } as Record<number, string>,
  matrix: {
    0: 'gbr',
    1: 'bt709',
    4: 'fcc',
    5: 'bt470bg',
    6: 'smpte170m',
    7: 'smpte240m',
    8: 'ycgco',
    9: 'bt2020nc',
    10: 'bt2020c',
    14: 'ictcp',
  } as Record<number, string>,
};
