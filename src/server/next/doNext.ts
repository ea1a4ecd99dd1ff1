import { and, eq, inArray, isNotNull, isNull, ne, or } from 'drizzle-orm';
import type { NextStep, StepOutcome, StepOutcomes } from '../../core/next';
import { OPEN_WORK } from '../../core/platform/shapes';
import { clips, files } from '../cards/tables';
import { jobs } from '../jobs/tables';
import { among } from '../platform/db/among';
import { work } from '../platform/work/tables';
import type { InJob, Ports } from './ports';
import { nextSteps } from './tables';

/** What does the steps: the ordinary ways of other rooms. A clip of which nothing is said waits on. */
export interface Doers<R> {
  place(runtime: R, clips: readonly string[], how: 'place' | 'name'): Promise<StepOutcomes>;
  proxies(runtime: R, clips: readonly string[]): Promise<StepOutcomes>;
}

/** Clips of a job that are being read or wait for it, with their cards. */
async function beingRead({ db, job }: InJob) {
  const rows = await db
    .selectDistinct({ clip: clips.id, card: clips.card })
    .from(work)
    .innerJoin(clips, eq(clips.id, work.clip))
    .where(
      and(eq(clips.job, job), inArray(work.kind, ['read', 'rest']), inArray(work.state, [...OPEN_WORK])),
    );
  return { clips: new Set(rows.map((r) => r.clip)), cards: new Set(rows.map((r) => r.card)) };
}

async function keep({ db }: Ports, step: NextStep, outcomes: StepOutcomes): Promise<boolean> {
  const those = (what: (o: StepOutcome) => boolean) =>
    [...outcomes].filter(([, o]) => what(o)).map(([clip]) => clip);
  const done = those((o) => o === 'done');
  if (done.length > 0)
    await db.delete(nextSteps).where(and(eq(nextSteps.step, step), among(nextSteps.clip, done)));
  const reasons = new Map<string, string[]>();
  for (const [clip, o] of outcomes)
    if (typeof o === 'object') reasons.set(o.why, [...(reasons.get(o.why) ?? []), clip]);
  for (const [why, stopped] of reasons)
    await db
      .update(nextSteps)
      .set({ state: 'stopped', why })
      .where(and(eq(nextSteps.step, step), among(nextSteps.clip, stopped)));
  return done.length > 0 || reasons.size > 0;
}

/** A step that stopped is no longer asked for where the person did it: the original has another name or place than it was taken in with. */
async function forgetDone({ db, job }: InJob): Promise<boolean> {
  const rows = await db
    .select({ clip: nextSteps.clip })
    .from(nextSteps)
    .innerJoin(clips, eq(clips.id, nextSteps.clip))
    .innerJoin(files, and(eq(files.clip, clips.id), eq(files.role, 'original'), isNotNull(files.takenPath)))
    .where(
      and(
        eq(clips.job, job),
        eq(nextSteps.state, 'stopped'),
        inArray(nextSteps.step, ['place', 'name']),
        or(ne(files.path, files.takenPath), ne(files.root, files.takenRoot)),
      ),
    );
  if (rows.length === 0) return false;
  const named = rows.map((r) => r.clip);
  await db
    .delete(nextSteps)
    .where(and(inArray(nextSteps.step, ['place', 'name']), among(nextSteps.clip, named)));
  return true;
}

/**
 * Does what is to happen with clips of a job as far as their time has come. Clips are placed and named once all of their card are read, so
 * that their numbers are in the order of shooting; their proxies come after it, unless that has to wait.
 */
export async function doNext<R extends InJob>(runtime: R, doers: Doers<R>): Promise<void> {
  let changed = await forgetDone(runtime);
  const waiting = await runtime.db
    .select({ clip: nextSteps.clip, step: nextSteps.step, card: clips.card })
    .from(nextSteps)
    .innerJoin(clips, eq(clips.id, nextSteps.clip))
    .where(and(eq(clips.job, runtime.job), eq(nextSteps.state, 'waiting')));
  if (waiting.length > 0) {
    const reading = await beingRead(runtime);
    const toPlace = waiting.filter((w) => w.step !== 'proxy');
    for (const how of ['place', 'name'] as const) {
      const ready = toPlace.filter((w) => w.step === how && !reading.cards.has(w.card)).map((w) => w.clip);
      if (ready.length > 0)
        changed = (await keep(runtime, how, await doers.place(runtime, ready, how))) || changed;
    }
    const notYet = new Set(toPlace.filter((w) => reading.cards.has(w.card)).map((w) => w.clip));
    const ready = waiting
      .filter((w) => w.step === 'proxy' && !reading.clips.has(w.clip) && !notYet.has(w.clip))
      .map((w) => w.clip);
    if (ready.length > 0)
      changed = (await keep(runtime, 'proxy', await doers.proxies(runtime, ready))) || changed;
  }
  if (changed) runtime.events.changed('next');
}

/** Open jobs in which something is still to happen. */
export async function jobsWithNext({ db }: Ports): Promise<string[]> {
  const rows = await db
    .selectDistinct({ job: clips.job })
    .from(nextSteps)
    .innerJoin(clips, eq(clips.id, nextSteps.clip))
    .innerJoin(jobs, and(eq(jobs.id, clips.job), isNull(jobs.putAwayAt)));
  return rows.map((r) => r.job);
}
