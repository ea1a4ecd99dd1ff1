import type { FieldId } from '../../src/core/facts/catalogue';
import type { Program } from './references';

/** Who is right where a value differs or is lacking here, and why. What a judgement does not name, it holds for all of. A value that others state rightly and that is lacking here has none. */
export interface Judgement {
  /** Ids of files: twelve digits of their SHA-256. */
  files?: readonly string[];
  fields?: readonly FieldId[];
  programs?: readonly Program[];
  /** What the other program states. */
  theirs?: RegExp;
  right: 'ours' | 'both';
  why: string;
}

const PICTURE: readonly FieldId[] = [
  'codec',
  'width',
  'height',
  'chroma',
  'bitDepth',
  'pixelAspect',
  'matrix',
];

export const JUDGED: readonly Judgement[] = [
  {
    files: [
      '306efa7671f1',
      '6fae30a2809b',
      '79d2a91e5a65',
      'b5d3d26f3c85',
      'daa9ce7a2c69',
      'ea0b108e7b1e',
      '712163cf9e9c',
    ],
    fields: PICTURE,
    programs: ['ffprobe', 'MediaInfo'],
    right: 'ours',
    why: 'a raw still: what they state is the first preview in it',
  },
  {
    files: ['74edae676bd3', '3858897cd311', 'ff8c34fb8e5b'],
    fields: ['width', 'height'],
    programs: ['MediaInfo'],
    right: 'ours',
    why: 'HEIF of tiles: the size is that of a tile or of a preview, ExifTool and Exiv2 state the whole',
  },
  {
    files: ['306efa7671f1', 'b5d3d26f3c85', 'e12e30bd0cf5', '431a1239713c'],
    fields: ['width', 'height'],
    right: 'ours',
    why: 'a raw still: the size of a preview, or of the sensor with its borders; ExifTool’s own ImageSize says as is said here',
  },
  {
    files: ['c38e469513e0'],
    fields: ['width', 'height'],
    programs: ['Exiv2'],
    right: 'ours',
    why: 'Exif still has the size of the picture that this smaller one was made from',
  },
  {
    files: [
      'f5d04bb2bddc',
      '21eca3fcbb12',
      '164624e76a45',
      '554756d3cbbe',
      '54e70637a87a',
      'b3a0328371a7',
      'c36eb63f84ae',
      '4a378207bd89',
      'eab06f9fb9f1',
    ],
    fields: ['exposureBias', 'iso', 'aperture', 'shutter'],
    programs: ['ExifTool'],
    right: 'ours',
    why: 'the maker’s note says otherwise than Exif; the standard’s tag counts, and Exiv2 reads it as is read here',
  },
  {
    files: ['9161967ed308'],
    right: 'both',
    why: 'a file put together from two cameras’, each with its own Exif',
  },
  {
    files: ['49d7f6f5f087', '8b39cd163691', '762b840c07bf', '68517dd3eeb7'],
    fields: ['description'],
    right: 'both',
    why: 'Exif and XMP each have one: Exif’s counts here (guidelines of the Metadata Working Group, from memory)',
  },
  {
    files: ['128e9ba280ff'],
    fields: ['description'],
    right: 'ours',
    why: 'the name of the language was read for the text',
  },
  {
    files: ['8704dbde64b2', '8b94d594fc19', '8c1b3d4d7dbd'],
    fields: ['description', 'comment'],
    right: 'both',
    why: 'bytes that are no text, shown in another way',
  },
  {
    files: [
      '63ab67fe58af',
      'ae9806fec2d6',
      'ba411358c0ef',
      '8f3578f49af9',
      'e030759f8bf9',
      '9f73e511848a',
      'fabfd09f0b8e',
      'a32b03c169a6',
      'c3f8acd2496f',
    ],
    fields: [
      'maker',
      'model',
      'aperture',
      'iso',
      'shutter',
      'exposureBias',
      'focalLength',
      'width',
      'height',
      'whiteBalanceMode',
    ],
    right: 'ours',
    why: 'a file that was damaged on purpose: what stands there is no value',
  },
  {
    files: ['d57a80b1ad79'],
    fields: ['shutter'],
    programs: ['Exiv2'],
    right: 'both',
    why: 'an exposure stated as a power of two: rounded to a dial’s by one, as it is by the other',
  },
  {
    files: ['90625459b973', '5071d0328800'],
    fields: ['operator', 'software'],
    right: 'both',
    why: 'two places state one each',
  },
  {
    files: ['3861cf38151d'],
    fields: ['sampleRate', 'audioBits'],
    programs: ['ExifTool'],
    right: 'ours',
    why: 'AAC: the entry’s nominal values; the coder’s own say otherwise, and ffprobe and MediaInfo read those',
  },
  {
    files: ['21dad35dfc1d'],
    fields: ['sampleRate'],
    programs: ['MediaInfo'],
    right: 'ours',
    why: 'Opus plays at 48 kHz (RFC 7845); the header’s rate is that of what was coded',
  },
  {
    files: ['7c958c45be64'],
    fields: ['title'],
    programs: ['Exiv2'],
    right: 'ours',
    why: 'the same in several languages: the first is shown',
  },
  {
    fields: ['whiteBalanceMode'],
    programs: ['Exiv2'],
    theirs: /^(?:Auto|Manual)$/,
    files: ['b8ba9aa168a8', '0ae870710431', '074816c50a7b', 'f5d04bb2bddc', 'aab7d17da315', '164624e76a45'],
    right: 'both',
    why: 'Exif says automatic or manual, the maker’s note which',
  },
  {
    fields: ['whiteBalanceMode', 'lensModel'],
    programs: ['ExifTool'],
    theirs: /^(?:Unknown|\d+$)/,
    right: 'ours',
    why: 'a code without words',
  },
  {
    files: ['646f800b8424', '7925cecf128c', 'dc02aa55e277'],
    fields: ['length', 'rate'],
    right: 'ours',
    why: 'a still, or a part of one frame: it has no length',
  },
  {
    fields: ['pixelAspect'],
    theirs: /^1(?:\.001)?$/,
    programs: ['MediaInfo'],
    right: 'ours',
    why: 'it states square pixels where the file says nothing',
  },
  {
    files: ['958036dd4e25'],
    fields: ['rotation'],
    right: 'ours',
    why: 'a program’s own count of turns, not a camera’s',
  },
];
