import { csv } from '../platform/csv';
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

/** A table with a row for each clip (`csv`). Units are in the headings. */
export function factsCsv(clips: readonly FactClip[], fields: readonly FieldId[]): string {
  return csv(
    ['Clip', 'Card', ...fields.map(heading)],
    clips.map((c) => [
      c.name,
      c.card ?? '',
      ...fields.map((f) => {
        const fact = c.facts.get(f);
        if (!fact) return '';
        const plain = plainValue(fact.chosen.value);
        return typeof plain === 'boolean' ? String(plain) : plain;
      }),
    ]),
  );
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
