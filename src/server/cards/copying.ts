import { and, eq, inArray, isNotNull } from 'drizzle-orm';
import { UNDER_WAY } from '../../core/offload';
import { offloadFiles, offloads } from '../offload/tables';
import type { InJob } from './ports';
import { files } from './tables';

/** Clips of the job of which a file is being copied, or is still to be: it is on its card only. */
export async function beingCopied({ db, job }: InJob): Promise<ReadonlySet<string>> {
  const rows = await db
    .selectDistinct({ clip: files.clip })
    .from(offloads)
    .innerJoin(offloadFiles, eq(offloadFiles.offload, offloads.id))
    .innerJoin(files, and(eq(files.id, offloadFiles.file), isNotNull(files.clip)))
    .where(
      and(
        eq(offloads.job, job),
        inArray(offloads.state, [...UNDER_WAY]),
        inArray(offloadFiles.state, ['waiting', 'failed']),
      ),
    );
  return new Set(rows.map((r) => r.clip));
}
