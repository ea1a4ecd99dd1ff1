import * as z from 'zod';
import {
  type FieldId,
  FIELDS,
  fieldOf,
  formatValue,
  Said,
  SOURCE_WORDS,
  type Source,
  type Statement,
} from './catalogue';
import type { ChosenFact } from './facts';
import { numberOf, type Value } from './values';

/** A fact as lists show it: its words, the number it sorts by (`null` where it sorts by its words), and who stated it. */
export const Shown = z.tuple([z.string(), z.number().nullable(), z.string()]);
export type Shown = z.infer<typeof Shown>;

export const showFact = ({ chosen }: ChosenFact): Shown => [
  formatValue(chosen.value, chosen.field),
  numberOf(chosen.value),
  chosen.source,
];

/** What is in the file system about a clip: facts that change when it is named, and so are never read from it. Paths below the root; milliseconds. */
export function fileStatements(clip: {
  path: string;
  original: string;
  bytes: number;
  files: number;
  modified: number;
  zoneMinutes: number;
}): Statement[] {
  const at = clip.path.lastIndexOf('/');
  const changed = new Date(clip.modified + clip.zoneMinutes * 60_000);
  return new Said('file')
    .text('fileName', clip.path.slice(at + 1))
    .text('cameraFile', clip.original)
    .text('folder', clip.path.slice(0, Math.max(0, at)) || '/')
    .count('size', clip.bytes)
    .count('files', clip.files)
    .value(
      'fileTime',
      Number.isNaN(changed.getTime())
        ? null
        : { type: 'moment', moment: { local: changed.toISOString().slice(0, 19), offset: clip.zoneMinutes } },
    ).statements;
}

/** Text for a spreadsheet or program: no units, exact numbers, ISO dates. The unit is in the heading. */
export function plainValue(v: Value): string | number | boolean {
  switch (v.type) {
    case 'count':
      return v.count;
    case 'number':
      return v.number;
    case 'flag':
      return v.flag;
    case 'fraction':
      return v.den === 1 ? v.num : `${v.num}/${v.den}`;
    case 'rate':
      return v.rate.den === 1 ? v.rate.num : `${v.rate.num}/${v.rate.den}`;
    case 'moment':
      return v.moment.local;
    case 'triple':
      return v.triple.join(' ');
    default:
      return formatValue(v);
  }
}

/** A column's heading: the term, and its unit where it has one. */
export const heading = (id: FieldId): string => {
  const { term, unit } = fieldOf(id);
  return unit === '' || unit === 'f/' || unit === 'T' ? term : `${term} (${unit})`;
};

/** How many clips of a camera state a field: by all, some or none of them. */
export interface MatrixCell {
  stated: number;
  of: number;
  sources: Source[];
}
export interface MatrixRow {
  field: FieldId;
  cells: Record<string, MatrixCell>;
}

/** Which camera states which field, of cameras with their clips and of what is stated of each. Fields nobody states are left out. */
export function statedRows(
  cameras: readonly { label: string; clips: number }[],
  stated: readonly { camera: string; field: FieldId; stated: number; sources: Source[] }[],
): MatrixRow[] {
  const cells = new Map(stated.map((s) => [`${s.camera} ${s.field}`, s]));
  const asked = new Set(stated.map((s) => s.field));
  return FIELDS.filter((f) => asked.has(f.id)).map(({ id }) => ({
    field: id,
    cells: Object.fromEntries(
      cameras.map(({ label, clips }) => {
        const cell = cells.get(`${label} ${id}`);
        return [label, { stated: cell?.stated ?? 0, of: clips, sources: cell?.sources ?? [] }];
      }),
    ),
  }));
}

/** The words of sources, for a line beneath a cell. */
export const sourceWords = (sources: readonly Source[]): string =>
  sources.map((s) => SOURCE_WORDS[s]).join(', ');
