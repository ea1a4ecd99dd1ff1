import * as z from 'zod';
import type { FieldId } from '../facts';
import { readTable } from '../platform/csv';
import { moduleOf } from './blocks';
import type { Convention } from './convention';
import { readBack } from './readBack';
import type { NamingData } from './shapes';

/** Fields that a person types, by the words that may head their column in a list. */
export const TYPED_FIELDS = [
  { field: 'place', term: 'Place', heads: ['place', 'location'] },
  { field: 'scene', term: 'Scene', heads: ['scene'] },
  { field: 'take', term: 'Take', heads: ['take'] },
  { field: 'gamma', term: 'Profile', heads: ['profile', 'curve', 'camera curve'] },
  { field: 'operator', term: 'Shooter', heads: ['shooter', 'operator'] },
  { field: 'givenName', term: 'Listed name', heads: ['listed name', 'new name', 'new'] },
] as const satisfies readonly { field: FieldId; term: string; heads: readonly string[] }[];
export type TypedField = (typeof TYPED_FIELDS)[number]['field'];
const TypedField = z.enum(TYPED_FIELDS.map((t) => t.field) as [TypedField, ...TypedField[]]);

/**
 * What fields are filled from: a list with a head, whose first column has the clips' names; the name of a folder a clip is in, counted
 * from its own (1); or the present names, taken apart by the convention.
 */
export const FillSource = z.discriminatedUnion('from', [
  z.object({ from: z.literal('list'), text: z.string() }),
  z.object({ from: z.literal('folder'), up: z.int().min(1).max(12), field: TypedField }),
  z.object({ from: z.literal('names') }),
]);
export type FillSource = z.infer<typeof FillSource>;

export interface Filling {
  said: { clip: string; field: TypedField; value: string }[];
  /** What could not be used, in sentences. */
  notes: string[];
}

/** Works out what a source says of the clips. Throws where a list cannot be read, with what to do. */
export function fillingOf(source: FillSource, data: NamingData, convention: Convention): Filling {
  switch (source.from) {
    case 'list':
      return fromList(source.text, data);
    case 'folder':
      return {
        said: data.clips.flatMap((c) => {
          const folders = (c.files.find((f) => f.role === 'original')?.place.path ?? '')
            .split('/')
            .slice(0, -1);
          const value = folders.at(-source.up);
          return value === undefined ? [] : [{ clip: c.id, field: source.field, value }];
        }),
        notes: [],
      };
    case 'names':
      return fromNames(data, convention);
  }
}

/** No more lines are told one by one. */
const MOST_NOTES = 8;

function fromList(text: string, data: NamingData): Filling {
  const [head = [], ...lines] = readTable(text);
  const fields = head.map(
    (h) => TYPED_FIELDS.find((t) => (t.heads as readonly string[]).includes(h.toLowerCase()))?.field,
  );
  if (!fields.slice(1).some((f) => f !== undefined))
    throw new Error(
      `The first line has to name the columns: the clips’ names first, then ${TYPED_FIELDS.map((t) => t.term).join(', ')}. This one says “${head.join(', ')}”.`,
    );
  const byName = new Map<string, string[]>();
  for (const c of data.clips)
    for (const name of new Set([c.current, c.original, c.current + c.extension, c.original + c.extension])) {
      const key = name.normalize('NFC').toLowerCase();
      byName.set(key, [...(byName.get(key) ?? []), c.id]);
    }
  const out: Filling = { said: [], notes: [] };
  const unknown: string[] = [];
  for (const line of lines) {
    const name = line[0] ?? '';
    const clips = byName.get(name.normalize('NFC').toLowerCase()) ?? [];
    if (clips.length !== 1) {
      unknown.push(
        clips.length === 0 ? `no clip is named “${name}”` : `${clips.length} clips are named “${name}”`,
      );
      continue;
    }
    fields.forEach((field, i) => {
      const value = line[i];
      if (i > 0 && field && value) out.said.push({ clip: clips[0]!, field, value: value.slice(0, 400) });
    });
  }
  out.notes.push(...unknown.slice(0, MOST_NOTES));
  if (unknown.length > MOST_NOTES) out.notes.push(`and ${unknown.length - MOST_NOTES} more lines`);
  return out;
}

function fromNames(data: NamingData, convention: Convention): Filling {
  const typed = new Set<string>(TYPED_FIELDS.map((t) => t.field));
  const blocks = convention.blocks.flatMap((b) => {
    const [field] = moduleOf(b.kind).fields?.(b.own) ?? [];
    return field !== undefined && typed.has(field) ? [{ id: b.id, field: field as TypedField }] : [];
  });
  if (blocks.length === 0)
    return {
      said: [],
      notes: ['no block of the convention is of a field that is typed, such as Scene or Place'],
    };
  let [apart, unsure] = [0, 0];
  const said = data.clips.flatMap((c) => {
    const reading = readBack(convention, c.current, { code: c.job });
    if (!reading?.fits) {
      apart++;
      return [];
    }
    if (reading.apart.ambiguous) {
      unsure++;
      return [];
    }
    return blocks.flatMap(({ id, field }) => {
      const value = reading.apart.texts.get(id);
      return value === undefined ? [] : [{ clip: c.id, field, value }];
    });
  });
  return {
    said,
    notes: [
      ...(apart > 0 ? [`${apart} names do not follow the convention`] : []),
      ...(unsure > 0 ? [`${unsure} names can be read in more than one way`] : []),
    ],
  };
}
