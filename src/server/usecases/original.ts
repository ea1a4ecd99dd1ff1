import { and, eq } from 'drizzle-orm';
import { files } from '../db/schema';
import { NotFound } from '../errors';
import { resolveIn } from '../files/paths';
import type { Runtime } from '../runtime';
import { rootById } from './roots';

/** The row of a clip's original. */
export async function originalOf(runtime: Pick<Runtime, 'db'>, clip: string): Promise<typeof files.$inferSelect> {
  const [row] = await runtime.db.select().from(files).where(and(eq(files.clip, clip), eq(files.role, 'original')));
  if (!row) throw new NotFound('The clip has no original.');
  return row;
}

/**
 * Does something with a clip's original file. Naming may rename it between the look-up and the opening; where that
 * happened the work is tried once more at the new place.
 */
export async function withOriginal<T>(runtime: Pick<Runtime, 'db'>, clip: string, work: (file: string) => Promise<T>): Promise<T> {
  const place = async () => {
    const row = await originalOf(runtime, clip);
    return resolveIn(await rootById(runtime, row.root), row.path);
  };
  const file = await place();
  try {
    return await work(file);
  } catch (e) {
    const now = await place();
    if (now === file) throw e;
    return work(now);
  }
}
