import { asc, eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { type FieldSet, type FieldSetFile, SHIPPED_SETS } from '../../core/facts/fieldSets';
import type { FieldSetsView } from '../../core/facts/shapes';
import { fieldSets } from './tables';
import { NotFound, Refused } from '../platform/errors';
import type { Ports } from './ports';

/** The shipped sets, then the person's own by name. */
export async function fieldSetsView(runtime: Pick<Ports, 'db'>): Promise<FieldSetsView> {
  return [
    ...SHIPPED_SETS.map((s) => ({ ...s, fields: [...s.fields], id: `shipped ${s.name}`, shipped: true })),
    ...(await runtime.db.select().from(fieldSets).orderBy(asc(fieldSets.name))).map((s) => ({
      ...s,
      shipped: false,
    })),
  ];
}

/** Keeps a set under its name; one of that name is replaced. */
export async function saveFieldSet(runtime: Ports, set: FieldSet): Promise<{ id: string }> {
  if (SHIPPED_SETS.some((s) => s.name.toLowerCase() === set.name.toLowerCase()))
    throw new Refused(`“${set.name}” is one of the sets that are always there.`, {
      next: 'Give yours another name.',
    });
  const [row] = await runtime.db
    .insert(fieldSets)
    .values({ id: randomUUID(), ...set })
    .onConflictDoUpdate({ target: fieldSets.name, set: { fields: set.fields } })
    .returning({ id: fieldSets.id });
  runtime.events.changed('job');
  return { id: row!.id };
}

export async function importFieldSets(runtime: Ports, { sets }: FieldSetFile): Promise<{ added: number }> {
  const own = sets.filter((s) => !SHIPPED_SETS.some((x) => x.name.toLowerCase() === s.name.toLowerCase()));
  for (const set of own) await saveFieldSet(runtime, set);
  return { added: own.length };
}

export async function dropFieldSet(runtime: Ports, id: string): Promise<void> {
  if ((await runtime.db.delete(fieldSets).where(eq(fieldSets.id, id)).returning()).length === 0)
    throw new NotFound('This field set has already been removed.');
  runtime.events.changed('job');
}
