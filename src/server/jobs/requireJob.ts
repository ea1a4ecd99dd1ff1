import { and, eq, isNull } from 'drizzle-orm';
import type { IntakeRules } from '../../core/intake';
import type { Rate } from '../../core/platform/timecode/rate';
import type { Writer } from '../platform/db/transaction';
import { jobs } from './tables';
import { NotFound } from '../platform/errors';
import type { InJob } from './ports';

export type Job = typeof jobs.$inferSelect;

/** The job that is worked in. Throws NotFound where it was removed meanwhile. */
export async function requireJob({ db, job: id }: Pick<InJob, 'db' | 'job'>): Promise<Job> {
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id));
  if (!job) throw new NotFound('This job no longer exists.', { next: 'Choose another in the list of jobs.' });
  return job;
}

/** The rate of the edit, as clips have it: only where nobody has said one. Returns whether it was taken. */
export async function keepRate({ db, job }: Pick<InJob, 'db' | 'job'>, rate: Rate): Promise<boolean> {
  const settled = await db
    .update(jobs)
    .set({ rate })
    .where(and(eq(jobs.id, job), isNull(jobs.rate)))
    .returning({ id: jobs.id });
  return settled.length > 0;
}

/** How cards are copied is remembered for the next one. */
export async function keepIntake(
  tx: Writer,
  job: Pick<Job, 'id' | 'intake'>,
  rules: Partial<IntakeRules>,
): Promise<void> {
  await tx
    .update(jobs)
    .set({ intake: { ...job.intake, ...rules } })
    .where(eq(jobs.id, job.id));
}

/** The job itself goes; what belongs to it has gone before. */
export async function forgetJob(tx: Writer, job: string): Promise<void> {
  await tx.delete(jobs).where(eq(jobs.id, job));
}
