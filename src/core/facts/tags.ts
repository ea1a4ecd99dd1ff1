import * as z from 'zod';
import { type FieldId, Said, type Statement } from './catalogue';
import { parseMoment, zoneOf } from './moments';

/** One file's answer of `exiftool -json -n`: tag names without groups; numbers in quotes or not, lists of several values. */
export const TagOutput = z.record(z.string(), z.unknown());
export type TagOutput = z.infer<typeof TagOutput>;

/**
 * Tags by the fields they state, the first that is there counts: the standard's before those of makers, Exif's words before XMP's (as the
 * Metadata Working Group's guidelines have it, from memory). ExifTool's names (its tag tables).
 */
export const TAGS: readonly [
  FieldId,
  'text' | 'count' | 'number' | 'shutter',
  readonly (string | RegExp)[],
][] = [
  ['maker', 'text', ['Make', 'DeviceManufacturer', 'AndroidMake']],
  ['model', 'text', ['Model', 'DeviceModelName', 'CameraModelName']],
  [
    'serial',
    'text',
    ['SerialNumber', 'InternalSerialNumber', 'CameraSerialNumber', 'DeviceSerialNo', 'BodySerialNumber'],
  ],
  [
    'firmware',
    'text',
    ['FirmwareVersion', 'Firmware', 'CameraFirmware', /^(?!Lens|Grip|Battery|GPS|Flash)\w*FirmwareVersion$/],
  ],
  ['cameraName', 'text', ['CameraID', 'CameraIdentifier', 'CameraLabel', 'CameraName']],
  ['operator', 'text', ['CameraOperator', 'Artist', 'OwnerName', 'Author', 'By-line', 'Creator']],
  ['lensModel', 'text', ['LensModel', 'Lens', 'LensType', 'LensID']],
  ['lensSerial', 'text', ['LensSerialNumber']],
  ['focalLength', 'number', ['FocalLength']],
  ['focalLength35', 'number', ['FocalLengthIn35mmFormat', 'FocalLength35efl']],
  ['focusDistance', 'number', ['SubjectDistance', 'FocusDistance', 'ObjectDistance']],
  ['aperture', 'number', ['FNumber', 'ApertureValue', 'Iris']],
  ['tStop', 'number', ['TStop']],
  ['ndFilter', 'text', ['NDFilter', 'NeutralDensityFilter']],
  ['iso', 'count', ['ISO', 'PhotographicSensitivity', 'RecommendedExposureIndex']],
  ['shutter', 'shutter', ['ExposureTime', 'ShutterSpeedValue', 'ShutterSpeed']],
  ['shutterAngle', 'number', ['ShutterAngle']],
  ['exposureBias', 'number', ['ExposureCompensation', 'ExposureBiasValue']],
  ['gain', 'number', ['Gain', 'MasterGainAdjustment']],
  ['whiteBalanceMode', 'text', ['WhiteBalance']],
  ['whiteBalance', 'count', ['ColorTemperature', 'WhiteBalanceKelvin', 'ColorTemp']],
  ['tint', 'number', ['Tint', 'ColorTint']],
  ['latitude', 'number', ['GPSLatitude']],
  ['longitude', 'number', ['GPSLongitude']],
  ['altitude', 'number', ['GPSAltitude', 'AbsoluteAltitude']],
  ['flightHeight', 'number', ['RelativeAltitude']],
  ['heading', 'number', ['GPSImgDirection', 'CameraYaw', 'GimbalYawDegree', 'Yaw']],
  ['tilt', 'number', ['CameraPitch', 'PitchAngle', 'GimbalPitchDegree', 'Pitch']],
  ['roll', 'number', ['CameraRoll', 'RollAngle', 'GimbalRollDegree', 'Roll']],
  ['title', 'text', ['Title', 'DisplayName', 'ObjectName']],
  ['description', 'text', ['ImageDescription', 'Description', 'Caption-Abstract']],
  ['subject', 'text', ['Subject', 'Keywords']],
  ['comment', 'text', ['UserComment', 'Comment']],
  ['reel', 'text', ['ReelName', 'ReelNumber', 'TapeName', 'AltTapeName']],
  ['scene', 'text', ['Scene', 'ShotScene']],
  ['take', 'text', ['Take', 'TakeNumber', 'ShotTake']],
  ['project', 'text', ['ProjectName', 'Project']],
  ['uniqueId', 'text', ['ImageUniqueID', 'MediaUniqueID', 'ContentIdentifier', 'DocumentID', 'MaterialUID']],
  ['gamma', 'text', ['PictureProfile', 'GammaCurve', 'LogGamma']],
  ['software', 'text', ['Software', 'Encoder', 'SoftwareVersion', 'CreatorTool']],
  ['width', 'count', ['ImageWidth', 'SourceImageWidth']],
  ['height', 'count', ['ImageHeight', 'SourceImageHeight']],
  ['sampleRate', 'count', ['AudioSampleRate']],
  ['bitDepth', 'count', ['BitDepth', 'BitsPerSample', 'ImagePixelDepth', 'BitDepthLuma']],
  ['chroma', 'text', ['ChromaFormat']],
];

/** Tags whose number is a code: ExifTool has words for it. Its names. */
export const IN_WORDS = [
  'Make',
  'DeviceManufacturer',
  'Model',
  'LensModel',
  'Lens',
  'LensType',
  'LensID',
  'NDFilter',
  'NeutralDensityFilter',
  'PictureProfile',
  'GammaCurve',
  'LogGamma',
  'WhiteBalance',
  'FirmwareVersion',
  'Firmware',
  'CameraFirmware',
  'ChromaFormat',
] as const;

/** Tags that the standard (Exif 2.3, JEITA CP-3451) and makers in their own notes both state: the standard's goes before. */
export const BY_STANDARD = [
  'ISO',
  'FNumber',
  'ExposureTime',
  'FocalLength',
  'FocalLengthIn35mmFormat',
  'ExposureCompensation',
  'LensModel',
  'SerialNumber',
  'SubjectDistance',
] as const;

/**
 * Tags with what `grouped` says in words in place of codes, and of the standard's tags in place of makers'. Its names have their
 * group before them ("EXIF:ISO", "MakerNotes:LensType"), as ExifTool's option -G0 gives them.
 */
export function withWords(tags: TagOutput, grouped: TagOutput): TagOutput {
  const out = { ...tags };
  const words = new Map<string, string>();
  for (const [key, v] of Object.entries(grouped)) {
    const name = key.slice(key.indexOf(':') + 1);
    if (typeof v === 'string' && !words.has(name) && !/^Unknown\b/i.test(v)) words.set(name, v);
  }
  const isCode = (v: unknown): boolean =>
    typeof v === 'number' || (typeof v === 'string' && /^[\d.\s-]{1,80}$/.test(v));
  for (const name of IN_WORDS) if (isCode(out[name]) && words.has(name)) out[name] = words.get(name);
  for (const name of BY_STANDARD)
    if (grouped[`EXIF:${name}`] !== undefined) out[name] = grouped[`EXIF:${name}`];
  return out;
}

/** The turn of a picture by its Exif orientation (JEITA CP-3451), in degrees clockwise; mirrored ones as they turn. */
const ORIENTATION: Record<string, number> = { 1: 0, 2: 0, 3: 180, 4: 180, 5: 90, 6: 90, 7: 270, 8: 270 };
/** The same by the `irot` box of HEIF (ISO/IEC 23008-12, from memory): quarter turns anticlockwise. */
const QUARTERS: Record<string, number> = { 0: 0, 1: 270, 2: 180, 3: 90 };

const DATES = [
  'DateTimeOriginal',
  'CreationDate',
  'MediaCreateDate',
  'CreateDate',
  'TrackCreateDate',
] as const;

/** Fields whose tags may be codes. */
const CODED: ReadonlySet<FieldId> = new Set<FieldId>([
  'lensModel',
  'whiteBalanceMode',
  'gamma',
  'maker',
  'ndFilter',
]);

/** Fields of which zero is no value: Exif writes it for what is not known. */
const POSITIVE: ReadonlySet<FieldId> = new Set<FieldId>([
  'width',
  'height',
  'bitDepth',
  'sampleRate',
  'focalLength',
  'focalLength35',
  'focusDistance',
  'aperture',
  'tStop',
  'iso',
  'whiteBalance',
]);

export interface TagOptions {
  zoneMinutes: number;
  kind: 'picture' | 'other';
  /** A raw still: the depth of its pictures is that of its previews. */
  isRaw?: boolean;
  /** The place the tags are in. */
  source?: 'tags' | 'sidecar';
}

/** A tag as text: of a list, all of it. `null` for what is neither. */
function textOf(tags: TagOutput, name: string | RegExp): string | null {
  const found = typeof name === 'string' ? tags[name] : Object.entries(tags).find(([k]) => name.test(k))?.[1];
  const all = (Array.isArray(found) ? (found as unknown[]) : [found]).filter(
    (v) => typeof v === 'string' || typeof v === 'number',
  );
  return all.map(String).join('; ').trim() || null;
}

/** The first number of a text that is one, or several apart from each other. */
const numberOf = (text: string): number =>
  Number(/^[-+]?\d{1,20}(?:\.\d{1,40})?(?:e[-+]?\d{1,3})?(?=$|[ ;])/i.exec(text)?.[0] ?? NaN);

/** What ExifTool found in a file's own tags. Values are taken as they are: nothing in them is run, fetched or used as a path. */
export function statementsFromTags(tags: TagOutput, options: TagOptions): Statement[] {
  const said = new Said(options.source ?? 'tags');
  // "3456 2304": of a raw still the whole picture's, where its first directories are previews.
  const size = /^(\d{1,9})[ x](\d{1,9})$/.exec(textOf(tags, 'ImageSize') ?? '');
  if (size)
    for (const [i, id] of (['width', 'height'] as const).entries())
      said.count(id, Number(size[i + 1]) || null);
  for (const [id, how, names] of TAGS) {
    // Of video it is the depth of a whole pixel (QuickTime File Format: 24 for all colours).
    if (id === 'bitDepth' && (options.isRaw || options.kind !== 'picture')) continue;
    // Without the sensor's size it is the focal length once more.
    const known =
      id === 'focalLength35' && textOf(tags, 'ScaleFactor35efl') === null ? names.slice(0, 1) : names;
    const value = known.map((n) => textOf(tags, n)).find((v) => v !== null);
    if (value === undefined || value === null) continue;
    if (how === 'text') {
      // A code that has no words says nothing to a person.
      if (CODED.has(id) && /^[\d.\s-]+$/.test(value)) continue;
      if (id === 'chroma') said.text(id, /4:\d:\d/.exec(value)?.[0]);
      else said.text(id, id === 'firmware' ? value.replace(/^firmware(?: version)?\s+/i, '') : value);
      continue;
    }
    const n = numberOf(value);
    if (POSITIVE.has(id) && !(n > 0)) continue;
    if (how === 'count') said.count(id, Math.round(n));
    else if (how === 'number') said.number(id, n);
    else said.shutter(n);
  }
  if (textOf(tags, 'FileType') === 'DV')
    said.count('audioBits', Number(textOf(tags, 'AudioBitsPerSample') ?? NaN));
  sayTurn(said, tags);
  sayDate(said, tags, options);
  return said.statements;
}

function sayTurn(said: Said, tags: TagOutput): void {
  const [orientation, turn] = [textOf(tags, 'Orientation'), textOf(tags, 'Rotation')];
  if (orientation !== null && ORIENTATION[orientation] !== undefined)
    said.count('rotation', ORIENTATION[orientation]);
  else if (/^(?:HEI[CF]|AVIF)$/.test(textOf(tags, 'FileType') ?? ''))
    said.count('rotation', QUARTERS[turn ?? '']);
  else if (/^(?:0|90|180|270)$/.test(turn ?? '')) said.count('rotation', Number(turn));
}

function sayDate(said: Said, tags: TagOutput, options: TagOptions): void {
  for (const name of DATES) {
    const raw = textOf(tags, name);
    if (raw === null) continue;
    const offset = (name === 'DateTimeOriginal' && textOf(tags, 'OffsetTimeOriginal')) || '';
    // Times of MP4 and MOV headers are UTC by the format, and ExifTool gives them without saying so.
    const utc = options.kind === 'other' && name !== 'DateTimeOriginal' && name !== 'CreationDate' ? 'Z' : '';
    const whole = raw + (/(?:Z|[+-]\d{1,2}(?::?\d\d)?)$/.test(raw.slice(10, 60)) ? '' : offset || utc);
    const moment = parseMoment(whole, options.zoneMinutes);
    if (!moment) continue;
    said.value('recordedAt', { type: 'moment', moment }).text('zone', zoneOf(whole));
    return;
  }
}
