import { and, eq, getTableColumns, sql } from 'drizzle-orm';
import type { RootKind } from '../../core/places';
import { NotFound } from '../platform/errors';
import { HOST } from '../platform/host';
import type { Ports } from './ports';
import { mounts, roots } from './tables';

/** A root as it is on this computer; `added` is the place it was added at. */
export type Root = typeof roots.$inferSelect & { added: string };

/** Roots as they are on this computer. */
const here = (db: Pick<Ports['db'], 'select'>) =>
  db
    .select({
      ...getTableColumns(roots),
      added: roots.path,
      path: sql<string>`coalesce(${mounts.path}, ${roots.path})`,
    })
    .from(roots)
    .leftJoin(mounts, and(eq(mounts.root, roots.id), eq(mounts.host, HOST)));

/** The roots in the data folder, and the folders in it that they are. */
export const OWN: readonly { id: string; kind: RootKind; name: string; folder: string }[] = [
  { id: 'shelf', kind: 'shelf', name: 'Shelf', folder: 'shelf' },
  { id: 'proxies', kind: 'proxies', name: 'Proxies', folder: 'proxies' },
  { id: 'handover', kind: 'handover', name: 'Handover', folder: 'handover' },
];

/** Whether a root is one of those in the data folder. */
export const isOwn = (id: string): boolean => OWN.some((f) => f.id === id);

const KINDS: readonly RootKind[] = ['shelf', 'proxies', 'handover', 'source', 'safe'];
const natural = new Intl.Collator('en', { numeric: true });

/** Sort Shelf's own first, then readers, then drives; by their names, numbers in them counted as numbers. */
export async function listRoots({ db }: { db: Pick<Ports['db'], 'select'> }): Promise<Root[]> {
  const rank = (r: Root): number => KINDS.indexOf(r.kind);
  return (await here(db).orderBy(roots.id)).sort(
    (a, b) => rank(a) - rank(b) || natural.compare(a.name, b.name),
  );
}

export async function rootById(
  from: Pick<Ports, 'db'> | Pick<Ports['db'], 'select'>,
  id: string,
): Promise<Root> {
  const db = 'db' in from ? from.db : from;
  const [root] = await here(db).where(eq(roots.id, id));
  if (!root) throw new NotFound('There is no such place.', { next: 'Choose one of the places listed.' });
  return root;
}
