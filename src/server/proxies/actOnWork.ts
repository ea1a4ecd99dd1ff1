import { and, eq, isNotNull } from 'drizzle-orm';
import type { WorkAction } from '../../core/platform/shapes';
import { among } from '../platform/db/among';
import { work } from '../platform/work/tables';
import type { InJob } from './ports';

/** Takes open work of the job off, lets it rest, goes on with it, has it done first, or queues work again that failed or was taken off: that of clips. What is about something else has ways of its own. */
export async function actOnWork(
  { db, job, queue }: InJob,
  { action, work: ids }: WorkAction,
): Promise<{ changed: number }> {
  const mine = await db
    .select({ id: work.id })
    .from(work)
    .where(and(eq(work.job, job), isNotNull(work.clip), among(work.id, ids)));
  const chosen = mine.map((w) => w.id);
  return { changed: await queue[action](chosen) };
}
