import { tidyName } from '../../core/choose';
import { laterSteps, type NextSteps } from '../../core/next';
import { giveKeywords, putInBins } from '../choose';
import type { Writer } from '../platform/db/transaction';
import { nextSteps } from './tables';

/** Clips whose steps are stored by one statement. */
const BATCH = 5000;

/**
 * What is to happen with clips that are taken in: marks are given at once, with what takes them in; what needs the clips to be read is
 * kept until they are.
 */
export async function wantNext(
  tx: Writer,
  job: string,
  clips: readonly string[],
  next: NextSteps,
): Promise<void> {
  if (clips.length === 0) return;
  const tidy = (names: readonly string[]) => names.flatMap((n) => tidyName(n) ?? []);
  const bin = tidy(next.bin);
  if (bin.length > 0)
    await putInBins(
      tx,
      job,
      clips.map((clip) => ({ path: bin, clip })),
    );
  await giveKeywords(tx, job, clips, tidy(next.keywords));
  const rows = clips.flatMap((clip) => laterSteps(next).map((step) => ({ clip, step })));
  for (let i = 0; i < rows.length; i += BATCH)
    await tx
      .insert(nextSteps)
      .values(rows.slice(i, i + BATCH))
      .onConflictDoNothing();
}
