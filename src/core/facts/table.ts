import { z } from 'zod';
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
import type { ChosenFact, Facts } from './facts';
import { numberOf, type Value } from './values';

/**
 * A fact as the table keeps it: its words, the number it sorts by (`null` where it sorts by its words), and who stated it.
 * Kept as a row, for a job has very many of them.
 */
export const Shown = z.tuple([z.string(), z.number().nullable(), z.string()]);
export type Shown = z.infer<typeof Shown>;
/** A clip's facts by field; fields it does not state are absent. */
export type ShownFacts = Partial<Record<FieldId, Shown>>;

export const showFact = ({ chosen }: ChosenFact): Shown => [
  formatValue(chosen.value, chosen.field),
  numberOf(chosen.value),
  chosen.source,
];

export function showFacts(facts: Facts): ShownFacts {
  const out: ShownFacts = {};
  for (const [id, fact] of facts) out[id] = showFact(fact);
  return out;
}

/**
 * A field's cell in a clip's shown facts as they are kept, in JSON, without taking the others apart; `null` where the clip
 * does not state it. In JSON a quote within words is escaped, so that `"field":[` can stand only where the field does.
 */
export function cellIn(kept: string, field: FieldId): string | null {
  const key = `"${field}":[`;
  const at = kept.indexOf(key);
  if (at < 0) return null;
  CELL.lastIndex = at + key.length - 1;
  return CELL.exec(kept)?.[0] ?? null;
}
const CELL = /\["(?:[^"\\]|\\.)*",[^,\]]+,"[^"]*"\]/y;

/** What stands in the file system about a clip: facts that change when it is named, and so are never read from it. Paths below the root; milliseconds. */
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

/** Text for a spreadsheet or program: no units, exact numbers, ISO dates. What the unit is stands in the heading. */
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

/** Which camera states which field. `clips` are the statements of each clip with its camera. Fields nobody states are left out. */
export function statedBy(clips: Iterable<{ camera: string; statements: readonly Statement[] }>): MatrixRow[] {
  const totals = new Map<string, number>();
  const tally = new Map<string, { stated: number; sources: Set<Source> }>();
  for (const { camera, statements } of clips) {
    totals.set(camera, (totals.get(camera) ?? 0) + 1);
    const seen = new Set<string>();
    for (const s of statements) {
      // A time of day that stands in, and what is worked out, are nobody's statement.
      if (s.source === 'clock' || s.source === 'workedOut' || s.source === 'correction') continue;
      const key = `${camera}\0${s.field}`;
      const cell = tally.get(key) ?? { stated: 0, sources: new Set() };
      if (!seen.has(key)) cell.stated++;
      seen.add(key);
      cell.sources.add(s.source);
      tally.set(key, cell);
    }
  }
  const cameras = [...totals.keys()].sort();
  return FIELDS.flatMap(({ id }) => {
    const cells = Object.fromEntries(
      cameras.map((c) => {
        const t = tally.get(`${c}\0${id}`);
        return [c, { stated: t?.stated ?? 0, of: totals.get(c)!, sources: [...(t?.sources ?? [])] }];
      }),
    );
    return Object.values(cells).some((c) => c.stated > 0) ? [{ field: id, cells }] : [];
  });
}

/** The words of sources, for a line beneath a cell. */
export const sourceWords = (sources: readonly Source[]): string =>
  sources.map((s) => SOURCE_WORDS[s]).join(', ');
