import type { Ports } from './ports';
import { cameras } from './tables';

/** Adds cameras that a job has not; those it has stay as they are. */
export async function addCameras(
  db: Pick<Ports['db'], 'insert'>,
  job: string,
  list: readonly { label: string; model: string | null }[],
): Promise<void> {
  if (list.length === 0) return;
  await db
    .insert(cameras)
    .values(list.map(({ label, model }) => ({ job, label, model })))
    .onConflictDoNothing();
}
