import { asc, eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { type ConventionFile, type Kept, type KeptView, READY } from '../../core/naming/library';
import { NotFound, Refused } from '../platform/errors';
import type { Ports } from './ports';
import { conventions } from './tables';

type Library = Pick<Ports, 'db' | 'events'>;

const isReady = (name: string): boolean =>
  READY.some((r) => r.convention.name.toLowerCase() === name.toLowerCase());

/** The conventions that are always there, then the kept ones by name. */
export async function conventionsView({ db }: Library): Promise<KeptView> {
  return [
    ...READY.map((r) => ({ ...r, id: `ready ${r.convention.name}`, ready: true })),
    ...(await db.select().from(conventions).orderBy(asc(conventions.name))).map(
      ({ id, convention, folderPlan }) => ({ id, convention, folderPlan, ready: false }),
    ),
  ];
}

/** Keeps a convention under its name; one of that name is replaced. */
export async function keepConvention({ db, events }: Library, kept: Kept): Promise<{ id: string }> {
  if (isReady(kept.convention.name))
    throw new Refused(`“${kept.convention.name}” is one of the conventions that are always there.`, {
      next: 'Give yours another name.',
    });
  const [row] = await db
    .insert(conventions)
    .values({ id: randomUUID(), name: kept.convention.name, ...kept })
    .onConflictDoUpdate({
      target: conventions.name,
      set: { convention: kept.convention, folderPlan: kept.folderPlan },
    })
    .returning({ id: conventions.id });
  events.changed('job');
  return { id: row!.id };
}

/** Keeps what a file holds; what is always there is passed over. */
export async function importConventions(library: Library, file: ConventionFile): Promise<{ added: number }> {
  const own = file.conventions.filter((c) => !isReady(c.convention.name));
  for (const kept of own) await keepConvention(library, kept);
  return { added: own.length };
}

export async function dropConvention({ db, events }: Library, id: string): Promise<void> {
  if ((await db.delete(conventions).where(eq(conventions.id, id)).returning()).length === 0)
    throw new NotFound('This convention has already been removed.');
  events.changed('job');
}
