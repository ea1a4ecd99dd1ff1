import { randomUUID } from 'node:crypto';
import { shownPath } from '../../core/platform/names';
import type { LogKind } from '../../core/logbook/shapes';
import { log } from '../platform/db/schema';
import type { Runtime } from '../runtime';

/** Writes one line of a job's logbook; `job` of null is for what concerns all jobs. */
export async function writeLog(
  { db, who, job }: Pick<Runtime, 'db' | 'who'> & { job: string | null },
  kind: LogKind,
  text: string,
  plan: string | null = null,
): Promise<void> {
  await db
    .insert(log)
    .values({ id: randomUUID(), job, at: new Date(), who, kind, text: shownPath(text), plan });
}
