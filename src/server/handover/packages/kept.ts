import { and, desc, eq } from 'drizzle-orm';
import { isStanding, rootById } from '../../places';
import { NotFound } from '../../platform/errors';
import { resolveIn } from '../../platform/files/paths';
import type { InJob, Ports } from '../ports';
import { packages, sendings } from '../tables';

export type PackageRow = typeof packages.$inferSelect;

/** By which the files of packages are verified and listed. */
export const HASH = 'xxh128';

export async function packageOf(runtime: InJob, id: string): Promise<PackageRow> {
  const [row] = await runtime.db
    .select()
    .from(packages)
    .where(and(eq(packages.job, runtime.job), eq(packages.id, id)));
  if (!row) throw new NotFound('There is no such package.', { next: 'Go back to Hand over.' });
  return row;
}

/** The last time it was sent. */
export async function lastSending({ db }: Pick<Ports, 'db'>, id: string) {
  const [row] = await db
    .select()
    .from(sendings)
    .where(eq(sendings.package, id))
    .orderBy(desc(sendings.number))
    .limit(1);
  return row!;
}

/** Whether the root of a package's place is connected, without a doubt: the empty folder a drive is mounted at is not it. */
export async function isThere(
  runtime: InJob,
  { root, folder }: Pick<PackageRow, 'root' | 'folder'>,
): Promise<boolean> {
  const at = await rootById(runtime, root).catch(() => null);
  if (!at || !(await isStanding(runtime, at))) return false;
  return resolveIn(at, folder).then(
    () => true,
    () => false,
  );
}
