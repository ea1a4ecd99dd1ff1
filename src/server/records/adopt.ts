import { and, asc, eq } from 'drizzle-orm';
import { sameTime } from '../../core/custody';
import type { Place, StepState } from '../../core/naming';
import { among } from '../platform/db/among';
import { clips, files } from '../cards/tables';
import { plans, steps } from '../naming/tables';
import { baseOf, resolveIn } from '../platform/files/paths';
import type { Ports } from './ports';
import { journalPlans, markUndone, rowOf } from '../naming';
import { listRoots, type Root } from '../places';
import { lstat } from '../platform/files/onDisk';

/** A step of a file's way: where it led. */
interface Led {
  plan: string;
  n: number;
  to: Place;
  size: number;
  modified: number;
}
/**
 * Takes over the plans that the shelf's journal tells of and the database does not know, which was brought back from an older state:
 * each of their files is looked for at the places it was led to, the last first, and what was done is told from where it is.
 * A plan that was not ended is left to the recovery. Returns how many were taken over.
 */
export async function adoptPlans(runtime: Ports): Promise<number> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const known = new Set((await runtime.db.select({ id: plans.id }).from(plans)).map((p) => p.id));
  const fresh = await journalPlans(roots.get('shelf')!, (plan) => !known.has(plan));
  if (fresh.length === 0) return 0;
  const wanted = [...new Set(fresh.flatMap((t) => t.plan.steps.map((s) => s.fileId)))];
  const ours = new Map(
    (
      await runtime.db
        .select({ id: files.id, job: clips.job })
        .from(files)
        .innerJoin(clips, eq(clips.id, files.clip))
        .where(among(files.id, wanted))
    ).map((f) => [f.id, f.job]),
  );
  const mine = fresh
    .map((t) => ({ ...t, steps: t.plan.steps.filter((s) => ours.has(s.fileId)) }))
    .filter((t) => t.steps.length > 0);
  // A plan that the database saw begin may have been ended, too, and its files led on from there.
  const before = await runtime.db
    .select()
    .from(steps)
    .innerJoin(plans, eq(plans.id, steps.plan))
    .where(eq(plans.state, 'doing'))
    .orderBy(asc(plans.madeAt), asc(steps.number));
  const ways = new Map<string, Led[]>();
  const lead = (file: string, step: Led) => ways.set(file, [...(ways.get(file) ?? []), step]);
  for (const { steps: s } of before)
    lead(s.file, {
      plan: s.plan,
      n: s.number,
      to: { root: s.toRoot, path: s.toPath },
      size: s.size,
      modified: s.modified,
    });
  for (const t of mine)
    for (const [n, s] of t.steps.entries())
      lead(s.fileId, { plan: t.plan.plan, n, to: s.to, size: s.size, modified: s.modified });
  const over = new Set(mine.flatMap((t) => (t.ended ? [t.plan.plan] : [])));
  const away = await rootsAway(roots);
  const states = new Map<string, StepState>();
  const stands = new Map<string, Place>();
  for (const [file, way] of ways) {
    let at = way.length - 1;
    while (at >= 0 && !(await standsAt(roots, way[at]!.to, way[at]!))) at--;
    // On a drive that is away it is where the journal says that it was led to in the end: nobody can deny it.
    if (at < 0) at = way.findLastIndex((s) => over.has(s.plan) && away.has(s.to.root));
    if (at >= 0) stands.set(file, way[at]!.to);
    for (const [i, s] of way.entries()) states.set(`${s.plan} ${s.n}`, i <= at ? 'done' : 'reverted');
  }
  const adopted = new Set(mine.map((t) => t.plan.plan));
  await runtime.db.transaction(async (tx) => {
    for (const { plan, ended, steps: list } of mine) {
      const done = list.filter((_, n) => states.get(`${plan.plan} ${n}`) === 'done').length;
      const state = !ended ? 'doing' : done === list.length ? 'done' : 'partly';
      await tx.insert(plans).values({
        id: plan.plan,
        job: ours.get(list[0]!.fileId)!,
        kind: plan.kind,
        state,
        undoes: plan.undoes,
        madeAt: new Date(plan.at),
        endedAt: ended ? new Date() : null,
      });
      for (let i = 0; i < list.length; i += 500) {
        await tx.insert(steps).values(
          list.slice(i, i + 500).map((s, k) => {
            const found = states.get(`${plan.plan} ${i + k}`)!;
            return rowOf(plan.plan, i + k, s, found === 'reverted' && !ended ? 'waiting' : found);
          }),
        );
      }
    }
    // Only where a plan that was taken over led it on: the rest is for the recovery.
    for (const [file, way] of ways) {
      if (!way.some((s) => adopted.has(s.plan))) continue;
      const place = stands.get(file);
      if (place) await tx.update(files).set(place).where(eq(files.id, file));
      for (const s of way)
        if (!adopted.has(s.plan))
          await tx
            .update(steps)
            .set({ state: states.get(`${s.plan} ${s.n}`)! })
            .where(and(eq(steps.plan, s.plan), eq(steps.number, s.n)));
    }
  });
  for (const { plan, ended } of mine)
    if (plan.undoes && ended && (known.has(plan.undoes) || adopted.has(plan.undoes)))
      await markUndone(runtime, plan.undoes, plan.plan);
  return mine.length;
}

/** Roots that are not connected, or where nothing can be looked at. */
async function rootsAway(roots: ReadonlyMap<string, Root>): Promise<Set<string>> {
  const away = new Set<string>();
  for (const root of roots.values()) await baseOf(root).catch(() => away.add(root.id));
  return away;
}

async function standsAt(
  roots: ReadonlyMap<string, Root>,
  place: Place,
  as: { size: number; modified: number },
): Promise<boolean> {
  const root = roots.get(place.root);
  const at = root ? await resolveIn(root, place.path).catch(() => null) : null;
  const now = at === null ? null : await lstat(at).catch(() => null);
  return (
    now !== null && now.isFile() && now.size === as.size && sameTime(Math.round(now.mtimeMs), as.modified)
  );
}
