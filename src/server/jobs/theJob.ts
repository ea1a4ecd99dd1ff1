import { jobs } from '../platform/db/schema';
import { NotFound } from '../platform/errors';
import type { Runtime } from '../runtime';

export type Job = typeof jobs.$inferSelect;

/** The one job of this data folder; `null` before it was begun. */
export async function findJob(runtime: Pick<Runtime, 'db'>): Promise<Job | null> {
  const [job] = await runtime.db.select().from(jobs);
  return job ?? null;
}

export async function theJob(runtime: Pick<Runtime, 'db'>): Promise<Job> {
  const job = await findJob(runtime);
  if (!job) throw new NotFound('No job has been begun.', { next: 'Give the job a name and a code first.' });
  return job;
}
