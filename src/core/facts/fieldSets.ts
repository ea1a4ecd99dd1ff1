import * as z from 'zod';
import { FieldId } from './catalogue';

/** A named choice of fields, in the order of their columns. The form they are exported and imported in, too. */
export const FieldSet = z.object({
  name: z.string().trim().min(1, 'give the field set a name').max(60),
  fields: z
    .array(FieldId)
    .min(1, 'choose at least one field')
    .max(120)
    .refine((f) => new Set(f).size === f.length, 'a field is chosen twice'),
});
export type FieldSet = z.infer<typeof FieldSet>;

/** A file of field sets. */
export const FieldSetFile = z.object({
  kind: z.literal('sort-shelf field sets'),
  sets: z.array(FieldSet).min(1).max(200),
});
export type FieldSetFile = z.infer<typeof FieldSetFile>;

/** What the table shows before the person chooses. */
export const DEFAULT_FIELDS: readonly FieldId[] = [
  'recordedAt',
  'start',
  'rate',
  'frames',
  'codec',
  'width',
  'height',
  'bitDepth',
  'channels',
  'model',
  'size',
];

/** The sets that are always there. */
export const SHIPPED_SETS: readonly FieldSet[] = [
  { name: 'At a glance', fields: [...DEFAULT_FIELDS] },
  {
    name: 'For relinking',
    fields: ['fileName', 'reel', 'start', 'end', 'rate', 'drop', 'frames', 'channels', 'folder'],
  },
  {
    name: 'For the grade',
    fields: [
      'codec',
      'profile',
      'bitDepth',
      'chroma',
      'range',
      'primaries',
      'transfer',
      'matrix',
      'gamma',
      'gamut',
      'lookName',
      'slope',
      'offset',
      'power',
      'saturation',
      'lut',
    ],
  },
  {
    name: 'Camera and lens',
    fields: [
      'maker',
      'model',
      'serial',
      'lensModel',
      'focalLength',
      'aperture',
      'iso',
      'shutter',
      'shutterAngle',
      'whiteBalance',
      'sensorRate',
      'speed',
    ],
  },
  {
    name: 'For sound',
    fields: [
      'start',
      'audioStreams',
      'channels',
      'channelLayout',
      'audioCodec',
      'sampleRate',
      'audioBits',
      'trackNames',
      'scene',
      'take',
      'circled',
    ],
  },
];
