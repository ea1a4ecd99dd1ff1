import { and, asc, eq, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import pMap from 'p-map';
import type { GivenNumber } from '../../core/naming/counters';
import { alikeFiles, type Step } from '../../core/naming/plan';
import type { StepState, WayBack } from '../../core/naming/shapes';
import { listRoots, type Root } from '../places';
import { among } from '../platform/db/among';
import type { Writer } from '../platform/db/transaction';
import { sampleOf } from '../platform/files/hash';
import { Journal } from '../platform/files/journal';
import { resolveIn } from '../platform/files/paths';
import { intentOf } from './journal';
import type { InJob, Ports } from './ports';
import { numbers, plans, steps } from './tables';

export type StepRow = typeof steps.$inferSelect;

/** Files that are read at once. */
const READERS = 4;

export const stepsOf = (runtime: Pick<Ports, 'db'>, planId: string): Promise<StepRow[]> =>
  runtime.db.select().from(steps).where(eq(steps.plan, planId)).orderBy(asc(steps.number));

export const toStep = (s: StepRow): Step => ({
  clipId: s.clip,
  fileId: s.file,
  kind: s.kind,
  from: { root: s.fromRoot, path: s.fromPath },
  to: { root: s.toRoot, path: s.toPath },
  size: s.size,
  modified: s.modified,
});

/** A step of a plan as it is kept. */
export const rowOf = (
  plan: string,
  number: number,
  s: Step,
  state: StepState,
): typeof steps.$inferInsert => ({
  plan,
  number,
  clip: s.clipId,
  file: s.fileId,
  kind: s.kind,
  fromRoot: s.from.root,
  fromPath: s.from.path,
  toRoot: s.to.root,
  toPath: s.to.path,
  size: s.size,
  modified: s.modified,
  state,
});

/** Steps; those of files that could be taken for each other with their fingerprints. One that cannot be read has none. */
async function withSamples(roots: readonly Root[], list: readonly Step[]): Promise<Step[]> {
  const alike = alikeFiles(list);
  if (alike.size === 0) return [...list];
  const places = new Map(roots.map((r) => [r.id, r]));
  const firsts = new Map<string, Step>();
  for (const s of list) if (alike.has(s.fileId) && !firsts.has(s.fileId)) firsts.set(s.fileId, s);
  const samples = new Map<string, string>();
  await pMap(
    firsts.values(),
    async ({ fileId, from, size }) => {
      const sample = await resolveIn(places.get(from.root)!, from.path)
        .then((file) => sampleOf(file, size))
        .catch(() => null);
      if (sample !== null) samples.set(fileId, sample);
    },
    { concurrency: READERS },
  );
  return list.map((s) => ({ ...s, sample: samples.get(s.fileId) }));
}

/** Keeps a plan that is about to be done: its whole intent is on the disk, beside the footage, before the first file is touched. */
export async function storePlan(
  runtime: InJob,
  kind: 'name' | 'undo',
  list: readonly Step[],
  { undoes = null, given = [] }: { undoes?: string | null; given?: readonly GivenNumber[] } = {},
): Promise<string> {
  const id = randomUUID();
  const roots = await listRoots(runtime);
  const journal = new Journal(roots.find((r) => r.id === 'shelf')!.path);
  journal.write(intentOf(roots, { id, kind, undoes, steps: await withSamples(roots, list) }), true);
  journal.close();
  await runtime.db.transaction(async (tx) => {
    await tx.insert(plans).values({ id, job: runtime.job, kind, state: 'doing', undoes, madeAt: new Date() });
    for (let i = 0; i < list.length; i += 500) {
      await tx.insert(steps).values(list.slice(i, i + 500).map((s, k) => rowOf(id, i + k, s, 'waiting')));
    }
    for (let i = 0; i < given.length; i += 1000)
      await tx
        .insert(numbers)
        .values(given.slice(i, i + 1000).map(({ clipId, ...n }) => ({ ...n, plan: id, clip: clipId })));
  });
  return id;
}

/** Writes on a plan what an undo took back; what is left of it can still be undone later. */
export async function markUndone(runtime: Pick<Ports, 'db'>, planId: string, undoId: string): Promise<void> {
  const back = (await stepsOf(runtime, undoId)).filter((s) => s.state === 'done').map((s) => s.file);
  if (back.length > 0)
    await runtime.db
      .update(steps)
      .set({ state: 'reverted' })
      .where(and(eq(steps.plan, planId), eq(steps.state, 'done'), among(steps.file, back)));
  const left = (await stepsOf(runtime, planId)).some((s) => s.state === 'done');
  await runtime.db
    .update(plans)
    .set({ state: left ? 'partly' : 'undone' })
    .where(eq(plans.id, planId));
}

/**
 * Which clips of plans can be taken back, and why others cannot: one can whose every file is where the plan left it. Of all plans of the
 * job, or of these.
 */
export async function undoable(
  { db, job }: Pick<InJob, 'db' | 'job'>,
  these?: readonly string[],
): Promise<{ plan: string; clip: string; back: WayBack }[]> {
  const { rows } = await db.execute<{ plan: string; clip: string; back: WayBack }>(sql`
    select s.plan, s.clip, case
        when bool_or(f.id is null) then 'gone'
        when bool_and(f.root = s.to_root and f.path = s.to_path) then 'open'
        else 'renamed' end as back
    from (
      select distinct on (plan, file) plan, clip, file, to_root, to_path from ${steps} where state = 'done' and ${these ? among(steps.plan, these) : sql`true`} order by plan, file, number desc
    ) s join ${plans} p on p.id = s.plan left join files f on f.id = s.file
    where p.job = ${job} and p.kind = 'name' and p.state in ('done', 'partly')
    group by s.plan, s.clip`);
  return rows;
}

/** Plans of which something can be taken back: of all of the job, or of these. */
export async function undoablePlans(
  runtime: Pick<InJob, 'db' | 'job'>,
  these?: readonly string[],
): Promise<Set<string>> {
  return new Set((await undoable(runtime, these)).filter((u) => u.back === 'open').map((u) => u.plan));
}

/** Plans of a job go, with their steps and numbers. */
export async function forgetPlans(tx: Writer, job: string): Promise<void> {
  await tx.delete(plans).where(eq(plans.job, job));
}
