import { and, eq, inArray, notInArray, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { FIRST_CONVENTION, FIRST_FOLDER_PLAN } from '../../core/naming';
import { FIRST_INTAKE } from '../../core/intake';
import { UNDER_WAY } from '../../core/offload';
import type { JobSummary, NewJob } from '../../core/jobs/shapes';
import {
  cameras,
  cards,
  clips,
  clocks,
  days,
  jobs,
  log,
  offloads,
  physicalCards,
  plans,
  safeCopies,
  shown,
  work,
} from '../platform/db/schema';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { InJob, Runtime } from '../runtime';
import { writeLog } from '../logbook';
import { type Job, theJob } from './theJob';

// The jobs of a library: all of them are in one database and share its roots, field sets and machine.

/** Whether any job was begun. */
export const anyJob = async ({ db }: Pick<Runtime, 'db'>): Promise<boolean> => (await db.$count(jobs)) > 0;

/** The job that an address names by its code, in any case. Throws NotFound. */
export async function jobByCode({ db }: Pick<Runtime, 'db'>, code: string): Promise<Job> {
  const [job] = await db
    .select()
    .from(jobs)
    .where(sql`lower(${jobs.code}) = lower(${code})`);
  if (!job)
    throw new NotFound(`There is no job ${code} here.`, { next: 'Choose another in the list of jobs.' });
  return job;
}

/** Begins a job. `zoneMinutes` defaults to where the server stands today. */
export async function beginJob(
  runtime: Runtime,
  wanted: NewJob,
  id: string = randomUUID(),
): Promise<{ code: string }> {
  const { code } = wanted;
  await runtime.db.transaction(async (tx) => {
    const [begun] = await tx
      .insert(jobs)
      .values({
        id,
        name: wanted.name,
        code,
        begunAt: new Date(),
        zoneMinutes: wanted.zoneMinutes ?? -new Date().getTimezoneOffset(),
        convention: FIRST_CONVENTION,
        folderPlan: FIRST_FOLDER_PLAN,
        intake: FIRST_INTAKE,
      })
      .onConflictDoNothing()
      .returning({ id: jobs.id });
    if (!begun)
      throw new Clash(`There is a job ${code} already.`, {
        next: 'Give the new job another code: it stands in names, folders and addresses.',
      });
    if (wanted.cameras?.length)
      await tx.insert(cameras).values(wanted.cameras.map((c) => ({ ...c, job: id })));
  });
  await writeLog(runtime.inJob(id), 'job', `Began the job ${wanted.name} (${code})`);
  runtime.events.changed('job', 'log');
  return { code };
}

/** Every job with how much is in it, the one that was worked on last first. */
export async function jobList({ db }: Pick<Runtime, 'db'>): Promise<JobSummary[]> {
  const of = (table: typeof cards | typeof clips) => sql`from ${table} where ${table}.job = ${jobs}.id`;
  const last = sql`coalesce((select max(at) from ${log} where ${log}.job = ${jobs}.id), ${jobs.begunAt})`;
  const rows = await db
    .select({
      name: jobs.name,
      code: jobs.code,
      begunAt: jobs.begunAt,
      putAwayAt: jobs.putAwayAt,
      lastAt: last.mapWith(jobs.begunAt),
      days: sql<number>`(select count(distinct day)::int ${of(cards)})`,
      cards: sql<number>`(select count(*)::int ${of(cards)})`,
      clips: sql<number>`(select count(*)::int ${of(clips)})`,
    })
    .from(jobs)
    .orderBy(sql`${last} desc`);
  return rows.map((j) => ({
    ...j,
    begunAt: j.begunAt.toISOString(),
    putAwayAt: j.putAwayAt?.toISOString() ?? null,
    lastAt: j.lastAt.toISOString(),
  }));
}

/** What of a job is under way, in words; null where nothing is. */
async function underWay({ db, job }: Pick<InJob, 'db' | 'job'>): Promise<string | null> {
  const [copy] = await db
    .select({ card: offloads.card })
    .from(offloads)
    .where(and(eq(offloads.job, job), inArray(offloads.state, [...UNDER_WAY])))
    .limit(1);
  if (copy) return `${copy.card} is being copied`;
  if ((await db.$count(plans, and(eq(plans.job, job), eq(plans.state, 'doing')))) > 0)
    return 'names are being given, or wait for their drive';
  const open = await db.$count(work, and(eq(work.job, job), inArray(work.state, ['queued', 'running'])));
  return open > 0 ? 'clips are being read, or proxies made' : null;
}

/** Puts a job away, or takes it up again: while it is away it can be looked at, and nothing of it changes. */
export function putAway(runtime: InJob, away: boolean): Promise<void> {
  return runtime.exclusively(async () => {
    const job = await theJob(runtime);
    if ((job.putAwayAt !== null) === away) return;
    const busy = away ? await underWay(runtime) : null;
    if (busy !== null)
      throw new Refused(`${job.name} cannot be put away yet: ${busy}.`, {
        next: 'Let it finish, or cancel it first.',
      });
    await runtime.db
      .update(jobs)
      .set({ putAwayAt: away ? new Date() : null })
      .where(eq(jobs.id, job.id));
    await writeLog(runtime, 'job', away ? 'Put the job away' : 'Took the job up again');
    runtime.events.changed('job', 'log');
  });
}

/**
 * Removes a job: what is known of its cards, clips, names and copies is forgotten. No file is touched, neither footage nor proxies.
 * A copy of a card that another job has, too, is that job's from then on.
 */
export function removeJob(runtime: InJob): Promise<void> {
  return runtime.exclusively(async () => {
    const job = await theJob(runtime);
    const busy = await underWay(runtime);
    if (busy !== null)
      throw new Refused(`${job.name} cannot be removed yet: ${busy}.`, {
        next: 'Let it finish, or cancel it first.',
      });
    await runtime.db.transaction(async (tx) => {
      const mine = eq(offloads.job, job.id);
      const others = await tx
        .selectDistinct({ job: cards.job, physical: cards.physical })
        .from(cards)
        .innerJoin(offloads, and(eq(offloads.physical, cards.physical), mine))
        .where(sql`${cards.job} <> ${job.id}`);
      for (const o of others)
        await tx
          .update(offloads)
          .set({ job: o.job })
          .where(and(mine, eq(offloads.physical, o.physical!)));
      const gone = tx.select({ id: offloads.id }).from(offloads).where(mine);
      await tx.delete(plans).where(eq(plans.job, job.id));
      // What lists show of its clips at once, not clip by clip.
      await tx.delete(shown).where(eq(shown.job, job.id));
      await tx.delete(clips).where(eq(clips.job, job.id));
      await tx.delete(cards).where(eq(cards.job, job.id));
      await tx.delete(clocks).where(eq(clocks.job, job.id));
      await tx.delete(cameras).where(eq(cameras.job, job.id));
      await tx.delete(days).where(eq(days.job, job.id));
      await tx.delete(safeCopies).where(inArray(safeCopies.offload, gone));
      await tx.delete(offloads).where(mine);
      // A card that nothing names any more is not known any more.
      await tx
        .delete(physicalCards)
        .where(
          and(
            notInArray(physicalCards.id, tx.select({ id: offloads.physical }).from(offloads)),
            sql`not exists (select from ${cards} c where c.physical = ${physicalCards.id})`,
          ),
        );
      await tx.delete(log).where(eq(log.job, job.id));
      await tx.delete(jobs).where(eq(jobs.id, job.id));
    });
    await writeLog(
      { db: runtime.db, who: runtime.who, job: null },
      'job',
      `Removed the job ${job.name} (${job.code}); its files stay where they are`,
    );
    runtime.events.changed('job', 'cards', 'clips', 'copies', 'log', 'work');
  });
}
