import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { NextAnswer, NextView } from '../../core/next';
import { shownPath } from '../../core/platform/names';
import { clips } from '../cards/tables';
import type { InJob } from './ports';
import { nextSteps } from './tables';

/** Most stopped steps that are listed. */
const LISTED = 200;

/** What is still to happen in the job by itself, and where a person has to look. */
export async function nextView({ db, job }: InJob): Promise<NextView> {
  const counts = await db
    .select({ step: nextSteps.step, state: nextSteps.state, clips: sql<number>`count(*)::int` })
    .from(nextSteps)
    .innerJoin(clips, and(eq(clips.id, nextSteps.clip), eq(clips.job, job)))
    .groupBy(nextSteps.step, nextSteps.state)
    .orderBy(asc(nextSteps.step));
  const stopped = await db
    .select({
      clip: clips.id,
      name: clips.original,
      card: clips.card,
      step: nextSteps.step,
      why: sql<string>`coalesce(${nextSteps.why}, '')`,
    })
    .from(nextSteps)
    .innerJoin(clips, and(eq(clips.id, nextSteps.clip), eq(clips.job, job)))
    .where(eq(nextSteps.state, 'stopped'))
    .orderBy(asc(clips.card), asc(clips.original), asc(nextSteps.step))
    .limit(LISTED);
  return {
    waiting: counts.filter((c) => c.state === 'waiting').map(({ step, clips: n }) => ({ step, clips: n })),
    stopped: stopped.map((s) => ({ ...s, name: shownPath(s.name) })),
    stops: counts.filter((c) => c.state === 'stopped').reduce((n, c) => n + c.clips, 0),
  };
}

/** Steps that stopped are tried once more, or left to the person: of one clip, or of all of the job. A clip that could not be read is read again first, by `read`. */
export async function answerNext<R extends InJob>(
  runtime: R,
  { answer, clip }: NextAnswer,
  read: (runtime: R, clips: readonly string[]) => Promise<unknown>,
): Promise<void> {
  const { db, job, events } = runtime;
  const mine = db
    .select({ id: clips.id })
    .from(clips)
    .where(clip === null ? eq(clips.job, job) : and(eq(clips.job, job), eq(clips.id, clip)));
  const those = and(eq(nextSteps.state, 'stopped'), inArray(nextSteps.clip, mine));
  if (answer === 'leave') await db.delete(nextSteps).where(those);
  else {
    const unread = await db
      .selectDistinct({ id: clips.id })
      .from(nextSteps)
      .innerJoin(clips, and(eq(clips.id, nextSteps.clip), eq(clips.state, 'unreadable')))
      .where(those);
    const ids = unread.map((c) => c.id);
    if (ids.length > 0) await read(runtime, ids);
    await db.update(nextSteps).set({ state: 'waiting', why: null }).where(those);
  }
  events.changed('next');
}
