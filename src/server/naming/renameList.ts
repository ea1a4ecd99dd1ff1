import { and, eq } from 'drizzle-orm';
import { renameCsv, renameReport, type Renamed } from '../../core/naming/renameList';
import { shownPath } from '../../core/platform/names';
import { clips } from '../cards/tables';
import { requireJob } from '../jobs';
import { listRoots } from '../places';
import { among } from '../platform/db/among';
import { NotFound } from '../platform/errors';
import { stepsOf } from './planStore';
import type { InJob } from './ports';
import { plans } from './tables';

/** The list of what a plan renamed, as a file with a name. Throws NotFound. */
export async function renameList(
  runtime: InJob,
  planId: string,
  as: 'csv' | 'text',
): Promise<{ name: string; text: string }> {
  const [plan] = await runtime.db
    .select()
    .from(plans)
    .where(and(eq(plans.job, runtime.job), eq(plans.id, planId)));
  if (!plan) throw new NotFound('This change is not in the logbook.');
  const [job, roots, all] = await Promise.all([
    requireJob(runtime),
    listRoots(runtime),
    stepsOf(runtime, planId),
  ]);
  const rootName = new Map(roots.map((r) => [r.id, r.name]));
  const cameraName = new Map(
    (
      await runtime.db
        .select({ id: clips.id, original: clips.original })
        .from(clips)
        .where(among(clips.id, [...new Set(all.map((s) => s.clip))]))
    ).map((c) => [c.id, c.original]),
  );
  const path = (root: string, at: string): string => shownPath(`${rootName.get(root) ?? root}/${at}`);
  // A file that waited under another name in between is one line.
  const files = new Map<string, Renamed>();
  for (const s of all) {
    const known = files.get(s.file);
    files.set(s.file, {
      clip: shownPath(cameraName.get(s.clip) ?? s.fromPath),
      kind: known?.kind ?? s.kind,
      from: known?.from ?? path(s.fromRoot, s.fromPath),
      to: path(s.toRoot, s.toPath),
      size: s.size,
      state: s.state,
      fault: s.fault,
    });
  }
  const list = [...files.values()];
  const when = plan.madeAt.toISOString();
  const name = `${job.code} ${plan.kind === 'undo' ? 'taken back' : 'renamed'} ${when.slice(0, 16).replace(':', '')}`;
  return as === 'csv'
    ? { name: `${name}.csv`, text: renameCsv(list) }
    : {
        name: `${name}.txt`,
        text: renameReport(list, [
          `${job.name} (${job.code})`,
          `${plan.kind === 'undo' ? 'Taken back' : 'Renamed'} at ${when}`,
        ]),
      };
}
