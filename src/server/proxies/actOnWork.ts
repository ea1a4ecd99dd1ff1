import { and, eq } from 'drizzle-orm';
import type { z } from 'zod';
import type { WorkAction } from '../../core/platform/shapes';
import { among } from '../platform/db/among';
import { work } from '../platform/db/schema';
import type { InJob } from '../runtime';

/** Takes queued or running work of the job off, or queues work again that failed or was taken off. */
export async function actOnWork(
  { db, job, queue }: InJob,
  { action, work: ids }: z.infer<typeof WorkAction>,
): Promise<{ changed: number }> {
  const mine = await db
    .select({ id: work.id })
    .from(work)
    .where(and(eq(work.job, job), among(work.id, ids)));
  const chosen = mine.map((w) => w.id);
  return { changed: action === 'cancel' ? await queue.cancel(chosen) : await queue.retry(chosen) };
}
