import * as z from 'zod';
import type { Rate } from '../platform/timecode/rate';
import { formatTimecode, type Timecode } from '../platform/timecode/timecode';
import { isInterlaced, isRgb, type ProxySource } from './source';

/** Images that frames of a clip are made into: RGB in full range, as DPX (SMPTE ST 268-1), by the bits of a component. */
export const ImageKind = z.enum(['dpx10', 'dpx16']);
export type ImageKind = z.infer<typeof ImageKind>;

/** FFmpeg's form of the pixels, and the bytes each takes: three of 10 bits are filled up to 32. */
const PIXELS: Record<ImageKind, { format: string; bytes: number }> = {
  dpx10: { format: 'gbrp10be', bytes: 4 },
  dpx16: { format: 'rgb48be', bytes: 6 },
};
export const IMAGE_EXTENSION = '.dpx';
/** Digits of a frame's number in the name of its image. */
export const IMAGE_DIGITS = 7;

/** What follows the name of a row of images in that of one of them. Frames count from 0; numbers from 1, as persons count them. */
export const imageTail = (frame: number): string =>
  `.${String(frame + 1).padStart(IMAGE_DIGITS, '0')}${IMAGE_EXTENSION}`;

/** Where the parts of a file begin (ST 268-1, from memory): what is of every kind of image, of film, of television, and the picture. Bytes. */
const [FILM, TELEVISION, PICTURE] = [1664, 1920, 2048];

/** Bytes of an image of this many pixels; lines begin at whole words of four bytes. */
export const imageBytes = (kind: ImageKind, width: number, height: number): number =>
  PICTURE + height * 4 * Math.ceil((width * PIXELS[kind].bytes) / 4);

/**
 * FFmpeg's arguments for images of so many frames, which the filter `only` lets through alone, input and output left out. Fields stay as they are in their frames, and pixels are not made square;
 * FFmpeg turns the picture as it is to be shown. The curve of the picture stays what it is: nothing is graded.
 */
export function imageArguments(
  kind: ImageKind,
  source: ProxySource,
  { only, frames }: { only: string; frames: number },
  keepFrames: readonly string[],
): string[] {
  const { pixelAspect: aspect, colour, rotation } = source;
  const from = colour.range === 'full' ? 'full' : 'limited';
  const levels = isRgb(source)
    ? 'out_range=full'
    : `in_range=${from}:in_color_matrix=${source.matrix}:out_range=full`;
  return [
    ...['-map', '0:v:0', '-map_metadata', '-1'],
    '-vf',
    [
      only,
      ...(aspect === null ? [] : [`setsar=${rotation % 180 === 0 ? aspect : 1 / aspect}`]),
      `scale=${levels}:flags=bicubic+accurate_rnd+full_chroma_int${isInterlaced(source) ? ':interl=1' : ''}`,
      `format=${PIXELS[kind].format}`,
    ].join(','),
    ...keepFrames,
    ...['-frames:v', String(frames), '-c:v', 'dpx'],
  ];
}

/** What an image says of itself. */
export interface ImageAbout {
  /** Its own name, and that of the file it is a frame of. */
  name: string;
  source: string;
  /** Of this frame; null where the clip has none. */
  timecode: Timecode | null;
  rate: Rate;
  interlaced: boolean;
  /** As H.273's names; null where the clip does not say. */
  transfer: string | null;
  primaries: string | null;
}

/** Codes of transfer and primaries (ST 268-1, from memory): what has none is "user-defined", and unknown "unspecified video". */
const [USER_DEFINED, UNSPECIFIED] = [0, 4];
const TRANSFER: Record<string, number> = { linear: 2, bt709: 6, bt470bg: 7, smpte170m: 8 };
const PRIMARIES: Record<string, number> = { bt709: 6, bt470bg: 7, smpte170m: 8 };
const codeOf = (codes: Record<string, number>, name: string | null): number =>
  name === null ? UNSPECIFIED : (codes[name] ?? USER_DEFINED);

/** Eight digits of a timecode, two in a byte; null where there are others. */
function digitsOf(timecode: Timecode): number[] | null {
  const pairs = formatTimecode(timecode).split(/[:;]/);
  return pairs.length === 4 && pairs.every((p) => /^\d\d$/.test(p))
    ? pairs.map((p) => parseInt(p, 16))
    : null;
}

/** Throws where the bytes are no image as FFmpeg writes it. */
export class NotAnImage extends Error {}

/**
 * An image as FFmpeg writes it, which has only what is of every kind of image, with what it says of its frame: the header of television is put in
 * before the picture, whose bytes stay as they are.
 */
export function stampedImage(image: Uint8Array, about: ImageAbout): Uint8Array {
  const head = new DataView(image.buffer, image.byteOffset, image.byteLength);
  const isOne = image.length > FILM && head.getUint32(0) === 0x53_44_50_58 && head.getUint32(4) === FILM;
  if (!isOne) throw new NotAnImage('FFmpeg wrote no DPX image of the form that is known.');
  const out = new Uint8Array(image.length + PICTURE - FILM);
  out.set(image.subarray(0, FILM));
  out.set(image.subarray(FILM), PICTURE);
  const view = new DataView(out.buffer);
  const words = (at: number, length: number, text: string): void => {
    const ascii = [...text].map((c) => (c >= ' ' && c <= '~' ? c.charCodeAt(0) : 0x3f));
    out.fill(0, at, at + length);
    out.set(ascii.slice(0, length - 1), at);
  };
  // Where the picture begins, in two places; how long the file is, and its headers.
  for (const at of [4, 808]) view.setUint32(at, PICTURE);
  view.setUint32(16, out.length);
  view.setUint32(24, FILM);
  view.setUint32(28, PICTURE - FILM);
  words(36, 100, about.name);
  words(160, 100, 'Sort Shelf');
  words(1432, 100, about.source);
  out[801] = codeOf(TRANSFER, about.transfer);
  out[802] = codeOf(PRIMARIES, about.primaries);
  // Numbers that are not known have all their bits set, in words of film and of television alike.
  out.fill(0xff, 1712, 1732);
  out.fill(0xff, TELEVISION, 1972);
  const digits = about.timecode && digitsOf(about.timecode);
  if (digits) out.set(digits, TELEVISION);
  out.set([about.interlaced ? 1 : 0], 1928);
  view.setFloat32(1940, about.rate.num / about.rate.den);
  return out;
}
