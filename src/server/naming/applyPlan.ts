import { and, asc, eq, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { shownPath } from '../../core/platform/names';
import { type Step, undoSteps } from '../../core/naming/plan';
import type { NamingRequest, PlanResult, PlanState, StepState } from '../../core/naming/shapes';
import { among } from '../platform/db/among';
import { clips, files } from '../cards/tables';
import { plans, steps } from './tables';
import { Clash, messageOf, NotFound, Refused } from '../platform/errors';
import { copyVerified, removeCopy, STOPPED } from '../transfer';
import { removeFile } from '../platform/files/fileSystem';
import { partName } from '../platform/files/partName';
import { hashFile } from '../platform/files/hash';
import { Journal } from '../platform/files/journal';
import { dropClaim, dropHalf, moveFile, pruneEmpty, settleMove } from '../platform/files/move';
import { resolveIn } from '../platform/files/paths';
import { inJob } from '../services';
import type { InJob, Ports } from './ports';
import { alone, type TaskContext } from '../platform/work/context';
import { saveSettings, requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { proxyPlace } from '../proxies';
import { planNaming } from './naming';
import { listRoots, type Root } from '../places';
import { lstat } from '../platform/files/onDisk';
import type { Writer } from '../platform/db/transaction';
import { standsAt } from '../cards';

type StepRow = typeof steps.$inferSelect;

/** Applies a naming plan: the very one whose fingerprint was shown, or nothing. */
export function applyNaming(
  runtime: InJob,
  request: NamingRequest & { fingerprint: string },
  task: TaskContext = alone(),
): Promise<PlanResult> {
  return runtime.exclusively(async () => {
    const { plan, preview } = await planNaming(runtime, request);
    if (preview.fingerprint !== request.fingerprint) {
      throw new Clash('The clips or the shelf have changed since this list was made.', {
        next: 'Nothing was changed. Look at the new list, then apply.',
      });
    }
    if (preview.stops > 0)
      throw new Refused(`${preview.stops} problems stop this plan.`, {
        next: 'Fix them, or leave those clips out.',
      });
    if (plan.steps.length === 0) throw new Refused('Every clip already has its name and place.');
    await saveSettings(runtime, request);
    const id = await storePlan(runtime, 'name', plan.steps, null);
    const result = await execute(runtime, id, task);
    await writeLog(runtime, 'name', `${sentence(result)} by “${request.convention.name}”`, id);
    runtime.events.changed('log');
    return result;
  });
}

/** Takes back what a plan did, as far as it was done. Made proxies of its clips go back to where unnamed ones stand. */
export function undoPlan(runtime: InJob, planId: string, task: TaskContext = alone()): Promise<PlanResult> {
  return runtime.exclusively(async () => {
    const [plan] = await runtime.db
      .select()
      .from(plans)
      .where(and(eq(plans.job, runtime.job), eq(plans.id, planId)));
    if (!plan) throw new NotFound('This change is not in the logbook.');
    if (!(await undoablePlans(runtime, planId)).has(planId))
      throw new Refused('This change can no longer be undone.', {
        next: 'Undo the later changes of the same clips first.',
      });
    const done = (await stepsOf(runtime, planId)).filter((s) => s.state === 'done');
    const back = undoSteps(done.map(toStep));
    const id = await storePlan(runtime, 'undo', [...(await proxiesBack(runtime, back)), ...back], planId);
    const result = await execute(runtime, id, task);
    await markUndone(runtime, planId, id);
    await writeLog(runtime, 'undo', `${sentence(result)}: undone`, id);
    runtime.events.changed('log');
    return result;
  });
}

const sentence = (r: PlanResult): string =>
  `${r.done} ${r.done === 1 ? 'file' : 'files'} renamed and placed${r.failed.length > 0 ? `, ${r.failed.length} left where they were` : ''}`;

/** Steps for made proxies that came after the plan: their clip loses its name, so they go with it. */
async function proxiesBack(runtime: InJob, back: readonly Step[]): Promise<Step[]> {
  const clipIds = [...new Set(back.map((s) => s.clipId))];
  const covered = new Set(back.map((s) => s.fileId));
  const family = await runtime.db
    .select({ file: files, clip: clips })
    .from(files)
    .innerJoin(clips, eq(files.clip, clips.id))
    .where(among(files.clip, clipIds));
  const { code } = await requireJob(runtime);
  const out: Step[] = [];
  for (const { file, clip } of family) {
    if (file.role !== 'proxy' || covered.has(file.id)) continue;
    const original = family.find((f) => f.file.clip === clip.id && f.file.role === 'original')?.file;
    const last = back.findLast((s) => s.fileId === original?.id);
    if (!original || !last) continue;
    const place = proxyPlace(code, clip, { ...original, root: last.to.root, path: last.to.path });
    if (place === file.path) continue;
    out.push({
      clipId: clip.id,
      fileId: file.id,
      kind: 'move',
      from: { root: file.root, path: file.path },
      to: { root: file.root, path: place },
      size: file.size,
      modified: file.modified,
    });
  }
  return out;
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

/** Plans that can be undone: every file they moved is where they put it. Of all plans, or of one. */
export async function undoablePlans(runtime: Pick<Ports, 'db'>, planId?: string): Promise<Set<string>> {
  const { rows } = await runtime.db.execute<{ plan: string }>(sql`
    select s.plan from (
      select distinct on (plan, file) plan, file, to_root, to_path from steps where state = 'done' order by plan, file, number desc
    ) s join plans p on p.id = s.plan left join files f on f.id = s.file
    where p.kind = 'name' and p.state in ('done', 'partly') ${planId ? sql`and p.id = ${planId}` : sql``}
    group by s.plan having bool_and(f.id is not null and f.root = s.to_root and f.path = s.to_path)`);
  return new Set(rows.map((r) => r.plan));
}

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

async function storePlan(
  runtime: InJob,
  kind: 'name' | 'undo',
  list: readonly Step[],
  undoes: string | null,
): Promise<string> {
  const id = randomUUID();
  const roots = await listRoots(runtime);
  // The whole intent is on the disk, beside the footage, before the first file is touched.
  const journal = new Journal(roots.find((r) => r.id === 'shelf')!.path);
  journal.write({ plan: id, kind, undoes, steps: list }, true);
  journal.close();
  await runtime.db.transaction(async (tx) => {
    await tx.insert(plans).values({ id, job: runtime.job, kind, state: 'doing', undoes, madeAt: new Date() });
    for (let i = 0; i < list.length; i += 500) {
      await tx.insert(steps).values(
        list.slice(i, i + 500).map((s, k) => ({
          plan: id,
          number: i + k,
          clip: s.clipId,
          file: s.fileId,
          kind: s.kind,
          fromRoot: s.from.root,
          fromPath: s.from.path,
          toRoot: s.to.root,
          toPath: s.to.path,
          size: s.size,
          modified: s.modified,
          state: 'waiting' as const,
        })),
      );
    }
  });
  return id;
}

/** Does the waiting steps of a plan in order. A family whose step fails goes back whole; the others go on. Stopped, it begins no other family, and the one under way goes back. */
async function execute(runtime: InJob, planId: string, task: TaskContext): Promise<PlanResult> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const journal = new Journal(roots.get('shelf')!.path);
  const all = await stepsOf(runtime, planId);
  const failed = new Map<string, string>(
    all.filter((s) => s.state === 'failed').map((s) => [s.clip, s.fault ?? '']),
  );
  const faults: PlanResult['failed'] = all
    .filter((s) => s.state === 'failed')
    .map((s) => ({ file: shownPath(s.fromPath), fault: s.fault ?? '' }));
  const begun = performance.now();
  let count = 0;
  let told = 0;
  const set = async (
    s: StepRow,
    state: StepState,
    fault: string | null = null,
    place?: { root: string; path: string },
  ) => {
    s.state = state;
    await runtime.db.transaction(async (tx) => {
      await tx
        .update(steps)
        .set({ state, fault })
        .where(and(eq(steps.plan, planId), eq(steps.number, s.number)));
      if (place) await standsAt(tx, s.file, place, s.kind === 'copy' && state === 'done');
    });
    journal.write({ plan: planId, step: s.number, state, ...(fault ? { fault } : {}) });
  };
  /** Takes back what was done of a family, the last first. */
  const goBack = async (clip: string, before: number): Promise<void> => {
    for (const s of all.filter((b) => b.clip === clip && b.number < before && b.state === 'done').reverse()) {
      await set(s, 'doing');
      const [back] = undoSteps([toStep(s)]);
      const revert = await doStep(roots, back!).then(() => null, messageOf);
      await set(
        s,
        revert === null ? 'reverted' : 'done',
        revert,
        revert === null ? { root: s.fromRoot, path: s.fromPath } : undefined,
      );
      if (revert !== null) faults.push({ file: shownPath(s.toPath), fault: `could not go back: ${revert}` });
    }
  };
  try {
    // A server that died between a step that failed and the way back left a family split.
    for (const s of all) if (s.state === 'failed') await goBack(s.clip, s.number);
    for (const s of all) {
      if (s.state !== 'waiting') continue;
      if (failed.has(s.clip)) {
        await set(s, 'failed', failed.get(s.clip));
        continue;
      }
      try {
        if (task.stopped()) throw Object.assign(new Error('stopped by the user'), { code: STOPPED });
        await set(s, 'doing');
        await doStep(roots, toStep(s), task.gate);
        await set(s, 'done', null, { root: s.toRoot, path: s.toPath });
        count++;
      } catch (e) {
        const fault = messageOf(e);
        failed.set(s.clip, `its family stayed together: ${fault}`);
        faults.push({ file: shownPath(s.fromPath), fault });
        await set(s, 'failed', fault);
        await goBack(s.clip, s.number);
        count = all.filter((x) => x.state === 'done').length;
      }
      if (performance.now() - told > 300) {
        told = performance.now();
        task.progress(count, all.length);
        runtime.events.send({
          type: 'running',
          job: runtime.job,
          title: 'Renaming',
          done: count,
          total: all.length,
          left: (((told - begun) / 1000) * (all.length - count)) / Math.max(1, count),
        });
      }
    }
    await prune(roots, all);
  } finally {
    journal.write({ plan: planId, ended: true }, true);
    journal.close();
  }
  const state: PlanState = faults.length > 0 ? 'partly' : 'done';
  await runtime.db.update(plans).set({ state, endedAt: new Date() }).where(eq(plans.id, planId));
  runtime.events.send({
    type: 'running',
    job: runtime.job,
    title: 'Renaming',
    done: all.length,
    total: all.length,
    left: 0,
  });
  runtime.events.changed('clips', 'cards', 'log');
  return { planId, state, done: all.filter((s) => s.state === 'done').length, failed: faults };
}

async function doStep(roots: ReadonlyMap<string, Root>, s: Step, gate?: SharedArrayBuffer): Promise<void> {
  const [from, to] = await placesOf(roots, s);
  if (s.kind === 'move') await moveFile(from, to, s);
  else if (s.kind === 'copy') await copyVerified(from, to, s, gate);
  else await removeCopy(from, to, s, gate);
}

async function placesOf(roots: ReadonlyMap<string, Root>, s: Step): Promise<[string, string]> {
  const root = (id: string) => {
    const r = roots.get(id);
    if (!r) throw new NotFound('The root of this step no longer exists.', { file: s.from.path });
    return r;
  };
  return [await resolveIn(root(s.from.root), s.from.path), await resolveIn(root(s.to.root), s.to.path)];
}

/** Folders that the plan emptied go; folders that hold anything stay. */
async function prune(roots: ReadonlyMap<string, Root>, all: readonly StepRow[]): Promise<void> {
  const left = new Set(
    all
      .filter((s) => s.state === 'done' && s.kind !== 'copy')
      .map((s) => `${s.fromRoot}\0${path.posix.dirname(s.fromPath)}`),
  );
  for (const key of left) {
    const [root, folder] = key.split('\0') as [string, string];
    if (folder === '.') continue;
    const place = roots.get(root)!;
    await pruneEmpty(await resolveIn(place, folder), await resolveIn(place, ''));
  }
}

/**
 * After a crash: for every plan that was under way the disk is asked how far its current step had come, half steps are
 * taken back, and the rest of the plan is done. Returns the roots that are away and that a plan waits for.
 */
export async function recoverPlans(runtime: Ports): Promise<string[]> {
  const waiting: string[] = [];
  const open = await runtime.db
    .select()
    .from(plans)
    .where(eq(plans.state, 'doing'))
    .orderBy(asc(plans.madeAt));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  for (const plan of open) {
    const all = await stepsOf(runtime, plan.id);
    // A drive that is away takes nothing back and gives nothing up: the plan goes on when it is there.
    const wanted = new Set(all.filter((s) => s.state !== 'reverted').flatMap((s) => [s.fromRoot, s.toRoot]));
    const away = (
      await Promise.all(
        [...wanted].map(async (id) => ((await isThere(roots.get(id))) ? [] : [roots.get(id)?.name ?? id])),
      )
    ).flat();
    if (away.length > 0) {
      waiting.push(...away);
      continue;
    }
    const its = inJob(runtime, plan.job);
    await settlePlan(its, roots, all);
    const result = await execute(its, plan.id, alone());
    if (plan.undoes) await markUndone(its, plan.undoes, plan.id);
    await writeLog(
      its,
      'recovery',
      `A ${plan.kind === 'undo' ? 'way back' : 'naming'} that was interrupted was finished: ${sentence(result)}`,
      plan.id,
    );
  }
  return waiting;
}

const isThere = (root: Root | undefined): Promise<boolean> =>
  root
    ? lstat(root.path).then(
        (s) => s.isDirectory(),
        () => false,
      )
    : Promise.resolve(false);

/**
 * Asks the disk how far each open step had come. The database may be behind by many steps: a power cut takes what it had not
 * written out, while names are flushed before a step is called done. A file that is at the end of its way has been
 * through all of it.
 */
async function settlePlan(
  runtime: InJob,
  roots: ReadonlyMap<string, Root>,
  all: readonly StepRow[],
): Promise<void> {
  const keep = async (s: StepRow, state: StepState, fault: string | null): Promise<void> => {
    Object.assign(s, { state, fault });
    await runtime.db.transaction(async (tx) => {
      await tx
        .update(steps)
        .set({ state, fault })
        .where(and(eq(steps.plan, s.plan), eq(steps.number, s.number)));
      if (state === 'done') await standsAt(tx, s.file, { root: s.toRoot, path: s.toPath }, s.kind === 'copy');
    });
  };
  const ways = new Map<string, StepRow[]>();
  for (const s of all) ways.set(s.file, [...(ways.get(s.file) ?? []), s]);
  for (const way of ways.values()) {
    let passed = false;
    for (const s of [...way].reverse()) {
      if (s.state !== 'doing' && s.state !== 'waiting') continue;
      const settled: { state: StepState; fault: string | null } = passed
        ? { state: 'done', fault: null }
        : await settle(roots, toStep(s)).catch((e: unknown) => ({ state: 'failed', fault: messageOf(e) }));
      passed ||= settled.state === 'done';
      // Of a step that was not begun nothing is said here: it is tried, and says itself what is in its way.
      if (settled.state === 'failed' && s.state === 'waiting') continue;
      if (settled.state === 'failed' && passed) continue;
      await keep(s, settled.state, settled.fault);
    }
    // The place is where the last step that was done led to.
    const last = way.findLast((s) => s.state === 'done');
    if (last) await keep(last, 'done', null);
  }
}

async function settle(
  roots: ReadonlyMap<string, Root>,
  s: Step,
): Promise<{ state: StepState; fault: string | null }> {
  const [from, to] = await placesOf(roots, s);
  if (s.kind === 'move') {
    const found = await settleMove(from, to, s);
    await (found === 'half' ? dropHalf(to) : found === 'done' ? dropClaim(to) : undefined);
    if (found === 'notBegun' || found === 'half') return { state: 'waiting', fault: null };
    if (found === 'done') return { state: 'done', fault: null };
    return {
      state: 'failed',
      fault:
        found === 'lost'
          ? `${s.from.path} is at neither its old nor its new place`
          : `another file has taken ${s.to.path}`,
    };
  }
  const [source, copy] = s.kind === 'copy' ? [from, to] : [to, from];
  await removeFile(partName(copy)).catch(() => undefined);
  const same = await hashFile(copy).then(
    async (h) => h === (await hashFile(source)),
    () => null,
  );
  if (s.kind === 'uncopy')
    return same === null ? { state: 'done', fault: null } : { state: 'waiting', fault: null };
  if (same === null) return { state: 'waiting', fault: null };
  return same
    ? { state: 'done', fault: null }
    : { state: 'failed', fault: `another file has taken ${s.to.path}` };
}

/** Plans of a job go, with their steps. */
export async function forgetPlans(tx: Writer, job: string): Promise<void> {
  await tx.delete(plans).where(eq(plans.job, job));
}
