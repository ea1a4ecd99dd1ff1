import { eq } from 'drizzle-orm';
import { forgetCards } from './cards';
import { forgetChoice } from './choose';
import { forgetCopies, forgetUnnamedCards } from './custody';
import { forgetFacts } from './facts';
import { forgetEdits, forgetPackages } from './handover';
import { forgetJob, requireJob, underWay } from './jobs';
import { forgetLog, writeLog } from './logbook';
import { forgetPlans } from './naming';
import { forgetCopyings } from './offload';
import { forgetWatches } from './watch';
import { Refused } from './platform/errors';
import { work } from './platform/work/tables';
import type { JobServices } from './services';

/**
 * Removes a job: each room forgets what it has of it, cards, clips, names and copies. No file is touched, neither footage nor proxies.
 * A copy of a card that another job has, too, is that job's from then on.
 */
export function removeJob(runtime: JobServices): Promise<void> {
  return runtime.exclusively(async () => {
    const job = await requireJob(runtime);
    const busy = await underWay(runtime);
    if (busy !== null)
      throw new Refused(`${job.name} cannot be removed yet: ${busy}.`, {
        next: 'Let it finish, or cancel it first.',
      });
    await runtime.db.transaction(async (tx) => {
      await forgetPlans(tx, job.id);
      await tx.delete(work).where(eq(work.job, job.id));
      await forgetFacts(tx, job.id);
      const copyings = await forgetCopyings(tx, job.id);
      await forgetWatches(tx, job.id);
      await forgetCards(tx, job.id);
      await forgetChoice(tx, job.id);
      await forgetEdits(tx, job.id);
      await forgetPackages(tx, job.id);
      await forgetCopies(tx, copyings);
      await forgetUnnamedCards(tx);
      await forgetLog(tx, job.id);
      await forgetJob(tx, job.id);
    });
    await writeLog(
      { db: runtime.db, who: runtime.who, job: null },
      'job',
      `Removed the job ${job.name} (${job.code}); its files stay where they are`,
    );
    runtime.events.changed('job', 'cards', 'clips', 'copies', 'choose', 'log', 'work');
  });
}
