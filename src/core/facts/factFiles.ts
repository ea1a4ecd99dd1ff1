import { stringify } from 'csv-stringify/sync';
import { type FieldId, fieldOf, type Statement } from './catalogue';
import type { Facts } from './facts';
import { heading, plainValue } from './table';

/** One clip to be written to a file of facts. */
export interface FactClip {
  name: string;
  card: string | null;
  statements: readonly Statement[];
  facts: Facts;
  notes: readonly string[];
}

/** A cell that a spreadsheet would take for a formula gets a sign before it that makes it text, also where its first sign is a full-width one. Numbers keep their minus. */
const harmless = (s: string): string =>
  /^[=+\-@\t\r\n\uff0b\uff0d\uff1d\uff20]/.test(s) && !/^-?\d+(?:\.\d+)?$/.test(s) ? `'${s}` : s;

/** A table by RFC 4180 with a row for each clip, in UTF-8 with its mark, which spreadsheets look for. Units are in the headings. */
export function factsCsv(clips: readonly FactClip[], fields: readonly FieldId[]): string {
  const rows = clips.map((c) => [
    harmless(c.name),
    harmless(c.card ?? ''),
    ...fields.map((f) => {
      const fact = c.facts.get(f);
      if (!fact) return '';
      const plain = plainValue(fact.chosen.value);
      return typeof plain === 'string' ? harmless(plain) : String(plain);
    }),
  ]);
  return `\ufeff${stringify([['Clip', 'Card', ...fields.map(heading)], ...rows], { record_delimiter: '\r\n', quoted_match: /[\r\n]/ })}`;
}

/** The same as JSON, with every statement and its source. `madeAt` is ISO 8601. */
export function factsJson(
  clips: readonly FactClip[],
  fields: readonly FieldId[],
  about: { job: string; madeAt: string },
): string {
  return `${JSON.stringify(
    {
      kind: 'sort-shelf facts',
      ...about,
      fields: fields.map((id) => ({
        id,
        term: fieldOf(id).term,
        unit: fieldOf(id).unit,
        type: fieldOf(id).type,
      })),
      clips: clips.map((c) => ({
        name: c.name,
        card: c.card,
        chosen: Object.fromEntries(
          fields.flatMap((f) => {
            const fact = c.facts.get(f);
            return fact ? [[f, { value: plainValue(fact.chosen.value), source: fact.chosen.source }]] : [];
          }),
        ),
        statements: c.statements.filter((s) => fields.includes(s.field)),
        notes: c.notes,
      })),
    },
    null,
    1,
  )}\n`;
}

/** Fields that at least one of the clips states, in the catalogue's order. */
export function statedFields(clips: readonly FactClip[], all: readonly { id: FieldId }[]): FieldId[] {
  return all.map((f) => f.id).filter((id) => clips.some((c) => c.facts.has(id)));
}
