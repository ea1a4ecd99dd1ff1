import { and, eq, inArray } from 'drizzle-orm';
import { files, pairs } from '../db/schema';
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

/** The file that shows a clip: its original, or the proxy that counts (a proven one first, then a made one). */
export async function clipFile(runtime: Pick<Runtime, 'db'>, clip: string, which: 'original' | 'proxy'): Promise<string> {
  const rows = await runtime.db.select({ file: files, pair: pairs.state }).from(files).leftJoin(pairs, eq(pairs.file, files.id))
    .where(and(eq(files.clip, clip), inArray(files.role, which === 'original' ? ['original'] : ['proxy', 'cameraProxy'])));
  const rank = (r: (typeof rows)[number]) => (r.pair === 'proven' ? 0 : 2) + (r.file.role === 'proxy' ? 0 : 1);
  const best = rows.sort((a, b) => rank(a) - rank(b))[0];
  if (!best) throw new NotFound(which === 'proxy' ? 'This clip has no proxy.' : 'This clip is not in the job any more.');
  return resolveIn(await rootById(runtime, best.file.root), best.file.path);
}

/**
 * Does something with a file of a clip. Naming may rename it between the look-up and the opening; where that happened
 * the work is tried once more at the new place.
 */
export async function withFile<T>(runtime: Pick<Runtime, 'db'>, clip: string, which: 'original' | 'proxy', work: (file: string) => Promise<T>): Promise<T> {
  const file = await clipFile(runtime, clip, which);
  try {
    return await work(file);
  } catch (e) {
    const now = await clipFile(runtime, clip, which);
    if (now === file) throw e;
    return work(now);
  }
}
