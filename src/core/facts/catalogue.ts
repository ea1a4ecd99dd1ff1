import * as z from 'zod';
import { countsTimecode, type Rate } from '../platform/timecode/rate';
import { fromTimeOfDay } from '../platform/timecode/timecode';
import { formatValue as formatPlain, Value, type ValueType } from './values';

/**
 * Who stated a fact: the place it is in, whatever program read it. `container` is the file's own header, `tags` what a
 * camera adds to it in its own way, `setting` what the job is set to, `clock` a time of day that stands in for a timecode, `correction` a clock put right.
 */
export const Source = z.enum([
  'person',
  'setting',
  'correction',
  'timecodeTrack',
  'sidecar',
  'bext',
  'ixml',
  'flightLog',
  'look',
  'container',
  'tags',
  'name',
  'file',
  'fileTime',
  'clock',
  'workedOut',
]);
export type Source = z.infer<typeof Source>;

export const SOURCE_WORDS: Record<Source, string> = {
  person: 'you',
  setting: 'setting of the job',
  correction: 'clock correction',
  timecodeTrack: 'timecode track',
  sidecar: 'sidecar',
  bext: 'bext chunk',
  ixml: 'iXML chunk',
  flightLog: 'flight log',
  look: 'look file',
  container: 'container',
  tags: 'camera tags',
  name: 'file name',
  file: 'file system',
  fileTime: 'file time',
  clock: 'time of day',
  workedOut: 'worked out',
};

export const FieldGroup = z.enum([
  'clip',
  'timecode',
  'picture',
  'colour',
  'sound',
  'camera',
  'lens',
  'exposure',
  'position',
  'look',
  'file',
]);
export type FieldGroup = z.infer<typeof FieldGroup>;
export const GROUP_WORDS: Record<FieldGroup, string> = {
  clip: 'Clip',
  timecode: 'Timecode',
  picture: 'Picture',
  colour: 'Colour',
  sound: 'Sound',
  camera: 'Camera',
  lens: 'Lens',
  exposure: 'Exposure',
  position: 'Position and tilt',
  look: 'Look',
  file: 'File',
};

export interface Field {
  id: string;
  group: FieldGroup;
  /** The trade's term. */
  term: string;
  type: ValueType;
  /** Unit of a count, number or fraction, "" where it has none. */
  unit: string;
  meaning: string;
  /** Sources that may state it, most trusted first. */
  trust: readonly Source[];
}

const field = <const I extends string>(
  group: FieldGroup,
  id: I,
  term: string,
  type: ValueType,
  trust: readonly Source[],
  meaning: string,
  unit = '',
): Field & { id: I } => ({ id, group, term, type, unit, meaning, trust });

// Orders of trust. Technical facts are in the container; a camera's own words about itself in what it adds; what the
// person says goes before all.
const FILE: readonly Source[] = ['person', 'container', 'sidecar', 'tags'];
const CAMERA: readonly Source[] = ['person', 'sidecar', 'tags', 'container', 'ixml', 'bext', 'name'];
const SETTING: readonly Source[] = ['person', 'sidecar', 'tags', 'flightLog', 'container'];
const WORDS: readonly Source[] = ['person', 'sidecar', 'ixml', 'bext', 'tags', 'container', 'name'];
const PLACE: readonly Source[] = ['person', 'flightLog', 'sidecar', 'tags', 'container'];
const LOOK: readonly Source[] = ['person', 'look', 'sidecar', 'tags'];

/** Every field Sort Shelf knows, in the order a person reads them. */
export const FIELDS = [
  field('clip', 'container', 'Container', 'text', FILE, 'The file format that holds the streams.'),
  field(
    'clip',
    'brand',
    'Brand',
    'text',
    FILE,
    'The flavour of the format that the file claims, as its four-character code.',
  ),
  field('clip', 'frames', 'Duration', 'count', FILE, 'Number of frames of the picture.', 'frames'),
  field('clip', 'length', 'Running time', 'number', FILE, 'How long the clip runs at its own rate.', 's'),
  field(
    'clip',
    'recordedAt',
    'Recorded',
    'moment',
    ['person', 'correction', 'sidecar', 'bext', 'tags', 'container', 'flightLog', 'name', 'fileTime'],
    'When the recording began, by the local clock.',
  ),
  field(
    'clip',
    'zone',
    'Time zone',
    'text',
    ['person', 'sidecar', 'tags', 'container'],
    'How far the clock was ahead of UTC, where the recording says so.',
  ),
  field('clip', 'title', 'Title', 'text', WORDS, 'A title given to the clip.'),
  field('clip', 'description', 'Description', 'text', WORDS, 'A longer description.'),
  field(
    'clip',
    'subject',
    'Subjects',
    'text',
    WORDS,
    'Words for what is in it, as dc:subject of XMP has them (ISO 16684-1); semicolons between.',
  ),
  field('clip', 'comment', 'Comment', 'text', WORDS, 'A remark left by camera or person.'),
  field(
    'clip',
    'reel',
    'Reel',
    'text',
    ['person', 'sidecar', 'timecodeTrack', 'ixml', 'bext', 'tags', 'container', 'name'],
    'The reel or card the clip says it is of.',
  ),
  field('clip', 'scene', 'Scene', 'text', WORDS, 'Scene by the slate.'),
  field('clip', 'take', 'Take', 'text', WORDS, 'Take by the slate.'),
  field('clip', 'place', 'Place', 'text', WORDS, 'Where it was shot, in words.'),
  field('clip', 'givenName', 'Listed name', 'text', ['person'], 'The name a list of names has for it.'),
  field('clip', 'circled', 'Circled take', 'flag', WORDS, 'Whether the take was marked as a good one.'),
  field('clip', 'project', 'Project', 'text', WORDS, 'The production as the device knows it.'),
  field(
    'clip',
    'uniqueId',
    'Unique id',
    'text',
    WORDS,
    'An identifier that is this recording’s alone (UMID, asset id).',
  ),
  field('clip', 'software', 'Written by', 'text', FILE, 'Program or firmware that wrote the file.'),

  field(
    'timecode',
    'start',
    'Start timecode',
    'timecode',
    ['person', 'timecodeTrack', 'sidecar', 'bext', 'tags', 'clock'],
    'Address of the first frame.',
  ),
  field('timecode', 'end', 'End timecode', 'timecode', ['workedOut'], 'Address just behind the last frame.'),
  field('timecode', 'rate', 'Frame rate', 'rate', FILE, 'Frames a second at which the picture plays.'),
  field(
    'timecode',
    'rateLeast',
    'Lowest rate',
    'number',
    FILE,
    'Where the frame rate varies: its lowest.',
    'fps',
  ),
  field(
    'timecode',
    'rateMost',
    'Highest rate',
    'number',
    FILE,
    'Where the frame rate varies: its highest.',
    'fps',
  ),
  field(
    'timecode',
    'timecodeRate',
    'Timecode counts at',
    'rate',
    ['person', 'timecodeTrack', 'sidecar', 'ixml'],
    'Frames a second that the timecode counts.',
  ),
  field(
    'timecode',
    'drop',
    'Drop-frame',
    'flag',
    ['person', 'timecodeTrack', 'sidecar', 'ixml'],
    'Whether the timecode leaves out numbers to keep to the clock.',
  ),
  field(
    'timecode',
    'timeReference',
    'Time reference',
    'count',
    ['bext'],
    'Samples of sound from midnight to its first (EBU Tech 3285).',
  ),
  field(
    'timecode',
    'sensorRate',
    'Captured at',
    'rate',
    ['person', 'sidecar', 'tags', 'container'],
    'Frames a second that the sensor took.',
  ),
  field(
    'timecode',
    'baseRate',
    'Plays at',
    'rate',
    ['person', 'sidecar', 'tags', 'container'],
    'Frames a second the camera means it to be played at.',
  ),
  field(
    'timecode',
    'speed',
    'Speed',
    'number',
    ['workedOut'],
    'How fast the clip runs at the rate it is meant to be played at: 100 fps played at 25 run at 25 %.',
    '%',
  ),

  field('picture', 'codec', 'Codec', 'text', FILE, 'How the picture is coded.'),
  field(
    'picture',
    'codecTag',
    'Codec tag',
    'text',
    FILE,
    'The container’s four-character code for the codec.',
  ),
  field('picture', 'profile', 'Profile', 'text', FILE, 'Which tools of the codec are used.'),
  field('picture', 'level', 'Level', 'number', FILE, 'The codec’s step of size and rate.'),
  field('picture', 'width', 'Width', 'count', FILE, 'Columns of the coded picture.', 'px'),
  field('picture', 'height', 'Height', 'count', FILE, 'Rows of the coded picture.', 'px'),
  field('picture', 'pixelAspect', 'Pixel aspect', 'fraction', FILE, 'Width of a pixel by its height.'),
  field(
    'picture',
    'displayAspect',
    'Display aspect',
    'text',
    FILE,
    'Width of the shown picture by its height.',
  ),
  field(
    'picture',
    'rotation',
    'Rotation',
    'count',
    FILE,
    'How far the picture is turned when shown, clockwise.',
    '°',
  ),
  field('picture', 'chroma', 'Chroma', 'text', FILE, 'Chroma sampling.'),
  field('picture', 'bitDepth', 'Bit depth', 'count', FILE, 'Bits of each sample.', 'bit'),
  field(
    'picture',
    'sampleFormat',
    'Sample format',
    'text',
    FILE,
    'Float, where samples are no whole numbers.',
  ),
  field(
    'picture',
    'scan',
    'Scan',
    'text',
    FILE,
    'Progressive, or interlaced with the field that comes first.',
  ),
  field('picture', 'bitRate', 'Bit rate', 'count', FILE, 'Average of the picture stream.', 'bit/s'),
  field('picture', 'allIntra', 'All intra', 'flag', FILE, 'Whether each frame stands by itself.'),

  field('colour', 'range', 'Range', 'text', FILE, 'Full, or limited to the levels of television.'),
  field('colour', 'primaries', 'Primaries', 'text', FILE, 'Colour primaries (ITU-T H.273).'),
  field('colour', 'transfer', 'Transfer', 'text', FILE, 'Transfer characteristics (ITU-T H.273).'),
  field('colour', 'matrix', 'Matrix', 'text', FILE, 'Matrix coefficients (ITU-T H.273).'),
  field(
    'colour',
    'masteringDisplay',
    'Mastering display',
    'text',
    FILE,
    'Luminance of the display it was graded on (SMPTE ST 2086).',
  ),
  field('colour', 'maxCll', 'MaxCLL', 'count', FILE, 'Maximum content light level (CTA-861).', 'cd/m²'),
  field(
    'colour',
    'maxFall',
    'MaxFALL',
    'count',
    FILE,
    'Maximum frame-average light level (CTA-861).',
    'cd/m²',
  ),
  field('colour', 'gamma', 'Camera curve', 'text', SETTING, 'The curve the camera names: log or look.'),
  field('colour', 'gamut', 'Camera gamut', 'text', SETTING, 'The gamut the camera names.'),

  field('sound', 'channels', 'Audio channels', 'count', FILE, 'Channels of all audio streams.'),
  field('sound', 'audioStreams', 'Audio streams', 'count', FILE, 'Number of audio streams.'),
  field('sound', 'channelLayout', 'Layout', 'text', FILE, 'Arrangement of the first stream’s channels.'),
  field('sound', 'audioCodec', 'Audio codec', 'text', FILE, 'How the sound is coded.'),
  field('sound', 'sampleRate', 'Sample rate', 'count', FILE, 'Samples a second.', 'Hz'),
  field('sound', 'audioBits', 'Audio bit depth', 'count', FILE, 'Bits of each sample.', 'bit'),
  field(
    'sound',
    'audioBitRate',
    'Audio bit rate',
    'count',
    FILE,
    'Average of the first audio stream.',
    'bit/s',
  ),
  field('sound', 'samples', 'Length', 'count', FILE, 'Samples of a sound recording.', 'samples'),
  field(
    'sound',
    'trackNames',
    'Track names',
    'text',
    ['person', 'ixml', 'bext', 'tags', 'container'],
    'Names of the channels, in order.',
  ),

  field('camera', 'maker', 'Maker', 'text', CAMERA, 'Who made the camera or recorder.'),
  field('camera', 'model', 'Model', 'text', CAMERA, 'Model of the camera or recorder.'),
  field('camera', 'serial', 'Serial number', 'text', CAMERA, 'The device’s own number.'),
  field('camera', 'firmware', 'Firmware', 'text', CAMERA, 'Version of the device’s software.'),
  field('camera', 'cameraName', 'Camera name', 'text', CAMERA, 'Letter or name the device was given.'),
  field('camera', 'operator', 'Operator', 'text', CAMERA, 'Who ran the device.'),

  field('lens', 'lensModel', 'Lens', 'text', SETTING, 'Model of the lens.'),
  field('lens', 'lensSerial', 'Lens serial', 'text', SETTING, 'The lens’s own number.'),
  field('lens', 'focalLength', 'Focal length', 'number', SETTING, 'Focal length set.', 'mm'),
  field(
    'lens',
    'focalLength35',
    'Focal length, full frame',
    'number',
    SETTING,
    'The focal length that shows as much on a 36 × 24 mm sensor.',
    'mm',
  ),
  field('lens', 'focusDistance', 'Focus distance', 'number', SETTING, 'Distance focused on.', 'm'),
  field('lens', 'aperture', 'Aperture', 'number', SETTING, 'Focal length by the entrance pupil.', 'f/'),
  field('lens', 'tStop', 'T stop', 'number', SETTING, 'Aperture by the light that comes through.', 'T'),
  field('lens', 'ndFilter', 'ND filter', 'text', SETTING, 'Neutral density in front of the sensor.'),

  field('exposure', 'iso', 'ISO', 'count', SETTING, 'Sensitivity set.'),
  field('exposure', 'shutter', 'Shutter', 'fraction', SETTING, 'Time each frame is exposed.', 's'),
  field(
    'exposure',
    'shutterAngle',
    'Shutter angle',
    'number',
    SETTING,
    'Share of the frame’s time that it is exposed, of 360 degrees.',
    '°',
  ),
  field(
    'exposure',
    'exposureBias',
    'Exposure bias',
    'number',
    SETTING,
    'Correction of the metered exposure.',
    'EV',
  ),
  field('exposure', 'gain', 'Gain', 'number', SETTING, 'Amplification set.', 'dB'),
  field(
    'exposure',
    'whiteBalance',
    'White balance',
    'count',
    SETTING,
    'Colour temperature taken as white.',
    'K',
  ),
  field('exposure', 'whiteBalanceMode', 'White balance mode', 'text', SETTING, 'How white was set.'),
  field('exposure', 'tint', 'Tint', 'number', SETTING, 'Shift of white between green and magenta.'),

  field('position', 'latitude', 'Latitude', 'number', PLACE, 'Degrees north of the equator.', '°'),
  field('position', 'longitude', 'Longitude', 'number', PLACE, 'Degrees east of Greenwich.', '°'),
  field('position', 'altitude', 'Altitude', 'number', PLACE, 'Height above the sea.', 'm'),
  field(
    'position',
    'flightHeight',
    'Height above start',
    'number',
    PLACE,
    'Height above where it took off, at the start of the clip.',
    'm',
  ),
  field('position', 'flightHighest', 'Highest', 'number', PLACE, 'Greatest height during the clip.', 'm'),
  field('position', 'heading', 'Heading', 'number', PLACE, 'Direction looked at, clockwise from north.', '°'),
  field('position', 'tilt', 'Tilt', 'number', PLACE, 'Up or down from the level.', '°'),
  field('position', 'roll', 'Roll', 'number', PLACE, 'Leaning to a side.', '°'),

  field('look', 'lookName', 'Look', 'text', LOOK, 'Name of the look file.'),
  field('look', 'slope', 'Slope', 'triple', LOOK, 'ASC CDL slope for red, green and blue; neutral is 1.'),
  field('look', 'offset', 'Offset', 'triple', LOOK, 'ASC CDL offset for red, green and blue; neutral is 0.'),
  field('look', 'power', 'Power', 'triple', LOOK, 'ASC CDL power for red, green and blue; neutral is 1.'),
  field('look', 'saturation', 'Saturation', 'number', LOOK, 'ASC CDL saturation; neutral is 1.'),
  field('look', 'lut', 'LUT', 'text', LOOK, 'Lookup table: its kind and size.'),

  field('file', 'fileName', 'File name', 'text', ['file'], 'Name of the original as it stands now.'),
  field('file', 'cameraFile', 'Camera’s name', 'text', ['file'], 'Name the camera gave, without extension.'),
  field('file', 'folder', 'Folder', 'text', ['file'], 'Folder of the original below its place.'),
  field('file', 'size', 'Size', 'count', ['file'], 'Bytes of the recording, all its segments counted.', 'B'),
  field('file', 'files', 'Files', 'count', ['file'], 'Files of the family.'),
  field('file', 'fileTime', 'Changed', 'moment', ['file'], 'When the original was last written.'),
] as const;

export type FieldId = (typeof FIELDS)[number]['id'];
export const FieldId = z.enum(FIELDS.map((f) => f.id) as [FieldId, ...FieldId[]]);

const BY_ID = new Map<string, Field>(FIELDS.map((f) => [f.id, f]));

export function fieldOf(id: FieldId): Field {
  return BY_ID.get(id)!;
}

/** A value as a person reads it, with its unit where the field is named. */
export const formatValue = (v: Value, id?: FieldId): string => formatPlain(v, id ? fieldOf(id).unit : '');

/** One value of one field as one source stated it. */
export const Statement = z.object({ field: FieldId, value: Value, source: Source });
export type Statement = z.infer<typeof Statement>;

/** The person's own order of trust, by field. Sources it does not name come behind it, in the catalogue's order. */
export const Trust = z.partialRecord(FieldId, z.array(Source).max(20));
export type Trust = z.infer<typeof Trust>;

/** The order in which a field's sources are believed. */
export function trustOf(id: FieldId, own: Trust = {}): readonly Source[] {
  const shipped = fieldOf(id).trust;
  const first = own[id];
  return first ? [...first, ...shipped.filter((s) => !first.includes(s))] : shipped;
}

/** The time of day as a timecode; `null` at a rate that timecode cannot count at. */
export const timeOfDayValue = (secondsOfDay: number, rate: Rate, drop = false): Value | null =>
  countsTimecode(rate) ? { type: 'timecode', timecode: fromTimeOfDay(secondsOfDay, rate, drop) } : null;

/** Collects statements; what is absent, empty or of another type than the catalogue's is left out. */
export class Said {
  readonly statements: Statement[] = [];
  constructor(readonly source: Source) {}

  #add(id: FieldId, value: Value, source: Source = this.source): void {
    // A source states a field once: the first place counts.
    if (
      fieldOf(id).type === value.type &&
      !this.statements.some((s) => s.field === id && s.source === source)
    )
      this.statements.push({ field: id, value, source });
  }

  value(id: FieldId, value: Value | null, source?: Source): this {
    if (value) this.#add(id, value, source);
    return this;
  }

  text(id: FieldId, text: string | null | undefined): this {
    // Control characters and padding are no words; a tag of many pages is no fact; half a character is none.
    const words = text
      ?.slice(0, 2000)
      .replace(/[\u0000-\u001f\u007f]+/g, ' ')
      .trim()
      .slice(0, 400)
      .toWellFormed();
    if (words) this.#add(id, { type: 'text', text: words });
    return this;
  }

  count(id: FieldId, n: number | null | undefined): this {
    if (n !== null && n !== undefined && Number.isSafeInteger(n)) this.#add(id, { type: 'count', count: n });
    return this;
  }

  number(id: FieldId, n: number | null | undefined): this {
    if (n !== null && n !== undefined && Number.isFinite(n) && Math.abs(n) < 1e15)
      this.#add(id, { type: 'number', number: n });
    return this;
  }

  flag(id: FieldId, flag: boolean | null | undefined): this {
    if (flag !== null && flag !== undefined) this.#add(id, { type: 'flag', flag });
    return this;
  }

  /** Seconds as the fraction a camera dial shows: 0.02 is 1/50, to half a percent of a whole divisor; else thousandths. No shutter is faster than a millionth. */
  shutter(seconds: number | null | undefined): this {
    if (seconds === null || seconds === undefined || !(seconds >= 1e-6) || seconds > 86_400) return this;
    const den = Math.round(1 / seconds);
    const dial = seconds < 1 && den <= 1e6 && Math.abs(den * seconds - 1) < 0.005;
    this.#add(
      'shutter',
      dial
        ? { type: 'fraction', num: 1, den }
        : { type: 'fraction', num: Math.max(1, Math.round(seconds * 1000)), den: 1000 },
    );
    return this;
  }
}
