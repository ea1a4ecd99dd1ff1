import { and, eq } from 'drizzle-orm';
import type { WorkKind } from '../../core/platform/shapes';
import { among } from '../platform/db/among';
import { clips } from './tables';
import type { InJob } from './ports';

/** Queues work for clips of the job, each with what was asked for; ids of others are left out. */
export async function addWork(
  runtime: InJob,
  kind: WorkKind,
  ids: readonly string[],
  wanted: unknown = null,
): Promise<{ added: number }> {
  const mine = new Set(
    (
      await runtime.db
        .select({ id: clips.id })
        .from(clips)
        .where(and(eq(clips.job, runtime.job), among(clips.id, ids)))
    ).map((c) => c.id),
  );
  return {
    added: await runtime.queue.add(
      kind,
      ids.filter((id) => mine.has(id)),
      wanted,
    ),
  };
}
