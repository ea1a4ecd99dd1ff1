import { eq } from 'drizzle-orm';
import { jobs } from '../platform/db/schema';
import { NotFound } from '../platform/errors';
import type { InJob } from '../runtime';

export type Job = typeof jobs.$inferSelect;

/** The job that is worked in. Throws NotFound where it was removed meanwhile. */
export async function theJob({ db, job: id }: Pick<InJob, 'db' | 'job'>): Promise<Job> {
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id));
  if (!job)
    throw new NotFound('This job is not there any more.', { next: 'Choose another in the list of jobs.' });
  return job;
}
