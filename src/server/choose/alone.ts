import { sql } from 'drizzle-orm';
import { jobs } from '../jobs/tables';
import type { Writer } from '../platform/db/transaction';
import type { InJob } from './ports';

/** Runs a change of a job's marks, one at a time: what it looks at is still so when it writes. */
export const alone = <T>({ db, job }: InJob, work: (tx: Writer) => Promise<T>): Promise<T> =>
  db.transaction(async (tx) => {
    await tx.execute(sql`select from ${jobs} where ${jobs.id} = ${job} for no key update`);
    return work(tx);
  });
