import type { Bytes } from './bytes';

/** The `bext` chunk of a Broadcast Wave file (EBU Tech 3285). Texts as they are there, trimmed. */
export interface Bext {
  description: string;
  originator: string;
  originatorReference: string;
  /** yyyy-mm-dd and hh:mm:ss, `null` where they are none. Other signs between the numbers are allowed by the standard. */
  date: string | null;
  time: string | null;
  /** First sample since midnight. */
  timeReference: number;
  version: number;
  /** As hexadecimal digits; "" where it is all zeros or of version 0. */
  umid: string;
}

export function readBext(b: Bytes): Bext {
  const date = /^(\d{4})\D(\d\d)\D(\d\d)$/.exec(b.latin(320, 330));
  const time = /^(\d\d)\D(\d\d)\D(\d\d)$/.exec(b.latin(330, 338));
  const version = b.u16(346, true);
  const umid =
    version >= 1 ? [...b.slice(348, 412).data].map((x) => x.toString(16).padStart(2, '0')).join('') : '';
  return {
    description: b.text(0, 256).trim(),
    originator: b.text(256, 288).trim(),
    originatorReference: b.text(288, 320).trim(),
    date: date ? `${date[1]}-${date[2]}-${date[3]}` : null,
    time: time ? `${time[1]}:${time[2]}:${time[3]}` : null,
    timeReference: b.u64(338, true),
    version,
    umid: /^0*$/.test(umid) ? '' : umid,
  };
}

/** The `fmt ` chunk: of WAVEFORMATEXTENSIBLE, the real kind is in the sub-format (Microsoft's RIFF descriptions, from memory). */
export interface WaveFormat {
  kind: number;
  channels: number;
  sampleRate: number;
  bytesPerSecond: number;
  blockAlign: number;
  bits: number;
  mask: number;
}

export function readFormat(b: Bytes): WaveFormat {
  const kind = b.u16(0, true);
  const extensible = kind === 0xfffe && b.length >= 26;
  return {
    kind: extensible ? b.u16(24, true) : kind,
    channels: b.u16(2, true),
    sampleRate: b.u32(4, true),
    bytesPerSecond: b.u32(8, true),
    blockAlign: b.u16(12, true),
    bits: b.u16(14, true),
    mask: extensible ? b.u32(20, true) : 0,
  };
}

/** A sound recording's header: its format, length and the chunks that describe it. */
export interface Wave {
  format: WaveFormat;
  dataBytes: number;
  bext: Bext | null;
  ixml: string | null;
}
