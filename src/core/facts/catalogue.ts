import { z } from 'zod';
import { Rate } from '../timecode/rate';
import { Timecode } from '../timecode/timecode';

/** Who stated a fact. */
export const Source = z.enum(['timecodeTrack', 'sidecar', 'container', 'fileTime', 'clock', 'person']);
export type Source = z.infer<typeof Source>;

export const SOURCE_WORDS: Record<Source, string> = {
  timecodeTrack: 'timecode track', sidecar: 'sidecar', container: 'container', fileTime: 'file time', clock: 'time of day', person: 'you',
};

export const FieldGroup = z.enum(['clip', 'timecode', 'picture', 'colour', 'sound', 'camera']);
export type FieldGroup = z.infer<typeof FieldGroup>;

/**
 * A moment as a camera writes it: local wall-clock date and time ("2026-05-06T14:22:05", no fraction) and the offset
 * from UTC in minutes, `null` where the source did not say one.
 */
export const Moment = z.object({ local: z.string().regex(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d$/), offset: z.int().nullable() });
export type Moment = z.infer<typeof Moment>;

/** A value with its type; counts are integers, the unit stands in the catalogue. */
export const Value = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text'), text: z.string() }),
  z.object({ type: z.literal('count'), count: z.int() }),
  z.object({ type: z.literal('rate'), rate: Rate }),
  z.object({ type: z.literal('timecode'), timecode: Timecode }),
  z.object({ type: z.literal('moment'), moment: Moment }),
]);
export type Value = z.infer<typeof Value>;

export interface Field {
  id: string;
  group: FieldGroup;
  /** The trade's term. */
  term: string;
  type: Value['type'];
  /** Unit of a count, "" where it has none. */
  unit: string;
  /** Sources that may state it, most trusted first. */
  trust: readonly Source[];
}

const field = (group: FieldGroup, id: string, term: string, type: Value['type'], trust: readonly Source[], unit = ''): Field =>
  ({ id, group, term, type, unit, trust });

const FILE: readonly Source[] = ['person', 'container', 'sidecar'];

/** Every field Sort Shelf knows, in the order a person reads them. */
export const FIELDS = [
  field('clip', 'container', 'Container', 'text', FILE),
  field('clip', 'frames', 'Duration', 'count', FILE, 'frames'),
  field('clip', 'recordedAt', 'Recorded', 'moment', ['person', 'sidecar', 'container', 'fileTime']),
  field('timecode', 'start', 'Start timecode', 'timecode', ['person', 'timecodeTrack', 'sidecar', 'clock']),
  field('timecode', 'rate', 'Frame rate', 'rate', FILE),
  field('timecode', 'baseRate', 'Plays at', 'rate', ['person', 'sidecar', 'container']),
  field('picture', 'codec', 'Codec', 'text', FILE),
  field('picture', 'profile', 'Profile', 'text', FILE),
  field('picture', 'width', 'Width', 'count', FILE, 'px'),
  field('picture', 'height', 'Height', 'count', FILE, 'px'),
  field('picture', 'chroma', 'Chroma', 'text', FILE),
  field('picture', 'bitDepth', 'Bit depth', 'count', FILE, 'bit'),
  field('colour', 'range', 'Range', 'text', FILE),
  field('colour', 'primaries', 'Primaries', 'text', FILE),
  field('colour', 'transfer', 'Transfer', 'text', FILE),
  field('colour', 'matrix', 'Matrix', 'text', FILE),
  field('sound', 'channels', 'Audio channels', 'count', FILE),
  field('sound', 'audioCodec', 'Audio codec', 'text', FILE),
  field('sound', 'sampleRate', 'Sample rate', 'count', FILE, 'Hz'),
  field('sound', 'samples', 'Length', 'count', FILE, 'samples'),
  field('camera', 'maker', 'Maker', 'text', ['person', 'sidecar', 'container']),
  field('camera', 'model', 'Model', 'text', ['person', 'sidecar', 'container']),
  field('camera', 'serial', 'Serial number', 'text', ['person', 'sidecar', 'container']),
] as const satisfies readonly Field[];

export type FieldId = (typeof FIELDS)[number]['id'];
export const FieldId = z.enum(FIELDS.map((f) => f.id) as [FieldId, ...FieldId[]]);

const BY_ID = new Map<string, Field>(FIELDS.map((f) => [f.id, f]));

export function fieldOf(id: FieldId): Field {
  return BY_ID.get(id)!;
}

/** One value of one field as one source stated it. */
export const Statement = z.object({ field: FieldId, value: Value, source: Source });
export type Statement = z.infer<typeof Statement>;
