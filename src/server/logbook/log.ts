import { eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { shownPath } from '../../core/platform/names';
import type { LogKind } from '../../core/logbook/shapes';
import type { Writer } from '../platform/db/transaction';
import { log } from './tables';
import type { Ports } from './ports';

/** Writes one line of a job's logbook; `job` of null is for what concerns all jobs. */
export async function writeLog(
  { db, who, job }: Pick<Ports, 'db' | 'who'> & { job: string | null },
  kind: LogKind,
  text: string,
  plan: string | null = null,
): Promise<void> {
  await db
    .insert(log)
    .values({ id: randomUUID(), job, at: new Date(), who, kind, text: shownPath(text), plan });
}

export async function forgetLog(tx: Writer, job: string): Promise<void> {
  await tx.delete(log).where(eq(log.job, job));
}
