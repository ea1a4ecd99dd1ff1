import { Bytes } from './bytes';

/** What a file is by its first bytes, and what reads it. */
export interface FileKind {
  id: string;
  /** Whether it can hold moving picture, sound alone, or one picture. */
  holds: 'video' | 'sound' | 'picture';
  /** The extension FFmpeg knows it by, without the dot. */
  extension: string;
  /** FFmpeg's readers for it (`ffmpeg -demuxers`, 5.1), the only ones it may be opened with: playlists and scripts, which name further files, have none. */
  demuxers: string;
}

/** First bytes of a file that `kindOf` has to be given, where there are so many. */
export const HEAD = 1024;

/** The types of boxes that a file of boxes may begin with (ISO/IEC 14496-12; `pnot` and `wide` by QTFF, from memory). */
const BOXES = /^(?:ftyp|moov|mdat|free|skip|wide|uuid|pnot|udta|meta|moof|sidx|styp|emsg|mfra)$/;

const kind = (id: string, holds: FileKind['holds'], extension: string, demuxers: string): FileKind => ({
  id,
  holds,
  extension,
  demuxers,
});
const KINDS = {
  boxes: kind('boxes', 'video', 'mov', 'mov'),
  mxf: kind('mxf', 'video', 'mxf', 'mxf'),
  avi: kind('avi', 'video', 'avi', 'avi'),
  matroska: kind('matroska', 'video', 'mkv', 'matroska'),
  transport: kind('transport', 'video', 'mts', 'mpegts'),
  program: kind('program', 'video', 'mpg', 'mpeg'),
  dv: kind('dv', 'video', 'dv', 'dv'),
  asf: kind('asf', 'video', 'asf', 'asf'),
  flash: kind('flash', 'video', 'flv', 'flv'),
  mpegVideo: kind('mpegVideo', 'video', 'm2v', 'mpegvideo'),
  ogg: kind('ogg', 'video', 'ogv', 'ogg'),
  wave: kind('wave', 'sound', 'wav', 'wav'),
  wave64: kind('wave64', 'sound', 'w64', 'w64'),
  aiff: kind('aiff', 'sound', 'aiff', 'aiff'),
  flac: kind('flac', 'sound', 'flac', 'flac'),
  mp3: kind('mp3', 'sound', 'mp3', 'mp3'),
  jpeg: kind('jpeg', 'picture', 'jpg', 'image2,jpeg_pipe'),
  png: kind('png', 'picture', 'png', 'image2,png_pipe'),
  tiff: kind('tiff', 'picture', 'tif', 'image2,tiff_pipe'),
  dpx: kind('dpx', 'picture', 'dpx', 'image2,dpx_pipe'),
  exr: kind('exr', 'picture', 'exr', 'image2,exr_pipe'),
  jp2: kind('jp2', 'picture', 'jp2', 'image2,j2k_pipe'),
  jxl: kind('jxl', 'picture', 'jxl', 'image2,jpegxl_pipe'),
  webp: kind('webp', 'picture', 'webp', 'image2,webp_pipe'),
  bmp: kind('bmp', 'picture', 'bmp', 'image2,bmp_pipe'),
} as const;

/**
 * Packets of a transport stream begin with 0x47, every 188 bytes, or every 192 behind a time stamp of four (ISO/IEC 13818-1; the
 * stamp by common practice). Two at least: text may begin with a "G".
 */
function isTransport(head: Bytes): boolean {
  return (
    [
      [0, 188],
      [4, 192],
    ] as const
  ).some(([first, step]) => {
    let packets = 0;
    for (let at = first; at < head.length; at += step) {
      if (head.u8(at) !== 0x47) return false;
      packets++;
    }
    return packets >= 2;
  });
}

/**
 * What a file is, by its first `HEAD` bytes; `null` for anything that is not known here. What a name says does not count.
 * Signatures by the formats' own descriptions: ISO/IEC 14496-12, SMPTE ST 377-1 (partition pack key), EBML (RFC 8794), RIFF, RF64
 * and BW64 (EBU Tech 3306, ITU-R BS.2088), ISO/IEC 13818-1, JPEG (ITU-T T.81), PNG, TIFF 6.0, SMPTE ST 268-1 (DPX), OpenEXR, JPEG XL (ISO/IEC 18181-2); all from memory.
 */
export function kindOf(first: Uint8Array): FileKind | null {
  const head = new Bytes(first.subarray(0, HEAD));
  const latin = (from: number, to: number) => head.latin(from, to);
  const [four, next] = [latin(0, 4), latin(4, 8)];
  if (head.length >= 8 && BOXES.test(next)) return KINDS.boxes;
  if (latin(0, 11) === '\x06\x0e\x2b\x34\x02\x05\x01\x01\x0d\x01\x02') return KINDS.mxf;
  if (/^(?:RIFF|RF64|BW64)$/.test(four)) {
    const form = latin(8, 12);
    return form === 'WAVE'
      ? KINDS.wave
      : form === 'AVI ' || form === 'AVIX'
        ? KINDS.avi
        : form === 'WEBP'
          ? KINDS.webp
          : null;
  }
  if (four === 'riff') return KINDS.wave64;
  if (four === '\x1aE\xdf\xa3') return KINDS.matroska;
  if (four === '\x00\x00\x01\xba') return KINDS.program;
  if (four === '\x00\x00\x01\xb3') return KINDS.mpegVideo;
  if (latin(0, 8) === '\x30\x26\xb2\x75\x8e\x66\xcf\x11') return KINDS.asf;
  if (latin(0, 4) === 'FLV\x01') return KINDS.flash;
  if (four === 'OggS') return KINDS.ogg;
  if (four === 'fLaC') return KINDS.flac;
  if (four === 'FORM' && /^AIF[FC]$/.test(latin(8, 12))) return KINDS.aiff;
  if (latin(0, 3) === 'ID3') return KINDS.mp3;
  if (latin(0, 3) === '\xff\xd8\xff') return KINDS.jpeg;
  if (latin(0, 8) === '\x89PNG\r\n\x1a\n') return KINDS.png;
  if (/^(?:II[*+]\0|MM\0[*+])$/.test(four)) return KINDS.tiff;
  if (/^(?:SDPX|XPDS)$/.test(four)) return KINDS.dpx;
  if (four === 'v/1\x01') return KINDS.exr;
  if (latin(0, 12) === '\0\0\0\x0cjP  \r\n\x87\n') return KINDS.jp2;
  if (latin(0, 12) === '\0\0\0\x0cJXL \r\n\x87\n' || latin(0, 2) === '\xff\x0a') return KINDS.jxl;
  if (latin(0, 2) === 'BM' && latin(6, 10) === '\0\0\0\0') return KINDS.bmp;
  if (latin(0, 3) === '\x1f\x07\x00') return KINDS.dv;
  return isTransport(head) ? KINDS.transport : null;
}

/** Extensions of formats that are read here by their contents: a file of such a name that is nothing of the kind is damaged, or misnamed. */
const READ_HERE =
  /\.(?:mp4|m4v|mov|qt|3gp|3g2|mxf|avi|mkv|webm|mts|m2ts|ts|mpg|mpeg|m2v|vob|mod|dv|asf|wmv|flv|ogv|ogg|wav|bwf|w64|rf64|aiff?|flac|mp3|jpe?g|png|tiff?|dpx|exr|jp2|jxl|webp|bmp)$/i;

/** Whether a file's contents have to be of a kind that is known here, going by its name. Other formats that are on the list of file types are believed. */
export const isReadHere = (name: string): boolean => READ_HERE.test(name);

export const NO_KIND_KNOWN = 'is of no kind known here';

/** Why a file of no known kind is none, in words that follow its name. */
export function noKind(first: Uint8Array): string {
  const printable = first.every((b) => b === 9 || b === 10 || b === 13 || (b >= 32 && b < 127) || b >= 128);
  return first.length === 0
    ? 'is empty'
    : first.every((b) => b === 0)
      ? 'begins with nothing but zeros'
      : printable
        ? 'is text'
        : NO_KIND_KNOWN;
}
