import { eq } from 'drizzle-orm';
import type { Writer } from '../platform/db/transaction';
import { bins, keywordRules, keywords, searches, stringOuts, together } from './tables';

/** Forgets keywords, their rules, bins, searches and string-outs of a job; what clips have of them goes with them, and ranges with their clips. */
export async function forgetChoice(tx: Writer, job: string): Promise<void> {
  await tx.delete(keywords).where(eq(keywords.job, job));
  await tx.delete(keywordRules).where(eq(keywordRules.job, job));
  await tx.delete(bins).where(eq(bins.job, job));
  await tx.delete(searches).where(eq(searches.job, job));
  await tx.delete(together).where(eq(together.job, job));
  await tx.delete(stringOuts).where(eq(stringOuts.job, job));
}
