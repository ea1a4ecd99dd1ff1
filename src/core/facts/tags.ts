import { z } from 'zod';
import { type FieldId, Said, type Statement } from './catalogue';
import { parseMoment } from './moments';

/** One file's answer of `exiftool -json -n`: tag names without groups, numbers as numbers. */
export const TagOutput = z.record(z.string(), z.unknown());
export type TagOutput = z.infer<typeof TagOutput>;

/** Tags by the fields they state, the more particular first. ExifTool's names (its tag tables). */
export const TAGS: readonly [FieldId, 'text' | 'count' | 'number' | 'shutter', readonly string[]][] = [
  ['maker', 'text', ['Make', 'DeviceManufacturer', 'AndroidMake']],
  ['model', 'text', ['Model', 'DeviceModelName', 'CameraModelName']],
  [
    'serial',
    'text',
    ['SerialNumber', 'InternalSerialNumber', 'CameraSerialNumber', 'DeviceSerialNo', 'BodySerialNumber'],
  ],
  ['firmware', 'text', ['FirmwareVersion', 'Firmware', 'CameraFirmware']],
  ['cameraName', 'text', ['CameraID', 'CameraIdentifier', 'CameraLabel', 'CameraName']],
  ['operator', 'text', ['CameraOperator', 'Artist', 'OwnerName', 'Author']],
  ['lensModel', 'text', ['LensModel', 'Lens', 'LensType', 'LensID']],
  ['lensSerial', 'text', ['LensSerialNumber']],
  ['focalLength', 'number', ['FocalLength']],
  ['focalLength35', 'number', ['FocalLengthIn35mmFormat', 'FocalLength35efl']],
  ['focusDistance', 'number', ['FocusDistance', 'SubjectDistance', 'ObjectDistance']],
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
  ['description', 'text', ['Description', 'ImageDescription', 'Caption-Abstract']],
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
  ['rotation', 'count', ['Rotation']],
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
const ORIENTATION: Record<number, number> = { 1: 0, 2: 0, 3: 180, 4: 180, 5: 90, 6: 90, 7: 270, 8: 270 };

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

/** What ExifTool found in a file's own tags. Values are taken as they are: nothing in them is run, fetched or used as a path. */
export function statementsFromTags(
  tags: TagOutput,
  options: { zoneMinutes: number; kind: 'picture' | 'other' },
): Statement[] {
  const said = new Said('tags');
  for (const [id, how, names] of TAGS) {
    const value = names
      .map((n) => tags[n])
      .find((v): v is string | number => (typeof v === 'string' && v.trim() !== '') || typeof v === 'number');
    if (value === undefined) continue;
    // A code that has no words says nothing to a person; what is no size is none.
    if (how === 'text' && CODED.has(id) && /^[\d.\s-]+$/.test(String(value))) continue;
    if ((id === 'width' || id === 'height') && !(Number(value) > 0)) continue;
    const n =
      typeof value === 'number' ? value : Number(/^-?\d+(?:\.\d+)?$/.exec(String(value).trim())?.[0] ?? NaN);
    if (how === 'text') said.text(id, String(value));
    else if (how === 'count') said.count(id, Math.round(n));
    else if (how === 'number') said.number(id, n);
    else said.shutter(n);
  }
  if (typeof tags.Orientation === 'number') said.count('rotation', ORIENTATION[tags.Orientation]);
  for (const name of DATES) {
    const raw = tags[name];
    if (typeof raw !== 'string') continue;
    const offset =
      typeof tags.OffsetTimeOriginal === 'string' && name === 'DateTimeOriginal'
        ? tags.OffsetTimeOriginal
        : '';
    // Times of MP4 and MOV headers are UTC by the format, and ExifTool gives them without saying so.
    const utc = options.kind === 'other' && name !== 'DateTimeOriginal' && name !== 'CreationDate' ? 'Z' : '';
    const moment = parseMoment(
      raw.trim() + (/(?:Z|[+-]\d{1,2}(?::?\d\d)?)$/.test(raw.slice(10, 60)) ? '' : offset || utc),
      options.zoneMinutes,
    );
    if (moment) {
      said.value('recordedAt', { type: 'moment', moment });
      break;
    }
  }
  return said.statements;
}
