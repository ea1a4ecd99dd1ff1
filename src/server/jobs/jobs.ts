import { OPEN_WORK, WORK_WORDS } from '../../core/platform/shapes';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN } from '../../core/naming';
import { DEFAULT_INTAKE } from '../../core/intake';
import { UNDER_WAY } from '../../core/offload';
import type { JobSummary, NewJob } from '../../core/jobs/shapes';
import { cameras, cards, clips } from '../cards/tables';
import { jobs } from './tables';
import { log } from '../logbook/tables';
import { offloads } from '../offload/tables';
import { plans } from '../naming/tables';
import { work } from '../platform/work/tables';
import { Clash, NotFound, Refused } from '../platform/errors';
import { inJob } from '../services';
import type { InJob, Ports } from './ports';
import { writeLog } from '../logbook';
import { type Job, requireJob } from './requireJob';

// The jobs of a library: all of them are in one database and share its roots, field sets and machine.

/** Whether any job was begun. */
export const anyJob = async ({ db }: Pick<Ports, 'db'>): Promise<boolean> => (await db.$count(jobs)) > 0;

/** The job that an address names by its code, in any case. Throws NotFound. */
export async function jobByCode({ db }: Pick<Ports, 'db'>, code: string): Promise<Job> {
  const [job] = await db
    .select()
    .from(jobs)
    .where(sql`lower(${jobs.code}) = lower(${code})`);
  if (!job)
    throw new NotFound(`There is no job ${code} here.`, { next: 'Choose another in the list of jobs.' });
  return job;
}

/** Begins a job. `zoneMinutes` defaults to where the server is today. */
export async function beginJob(
  runtime: Ports,
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
        createdAt: new Date(),
        rate: wanted.rate ?? null,
        zoneMinutes: wanted.zoneMinutes ?? -new Date().getTimezoneOffset(),
        convention: DEFAULT_CONVENTION,
        folderPlan: DEFAULT_FOLDER_PLAN,
        intake: DEFAULT_INTAKE,
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
  await writeLog(inJob(runtime, id), 'job', `Created the job ${wanted.name} (${code})`);
  runtime.events.changed('job', 'log');
  return { code };
}

/** Every job with how much is in it, the one that was worked on last first. */
export async function jobList({ db }: Pick<Ports, 'db'>): Promise<JobSummary[]> {
  const of = (table: typeof cards | typeof clips) => sql`from ${table} where ${table}.job = ${jobs}.id`;
  const last = sql`coalesce((select max(at) from ${log} where ${log}.job = ${jobs}.id), ${jobs.createdAt})`;
  const rows = await db
    .select({
      name: jobs.name,
      code: jobs.code,
      createdAt: jobs.createdAt,
      putAwayAt: jobs.putAwayAt,
      lastAt: last.mapWith(jobs.createdAt),
      days: sql<number>`(select count(distinct day)::int ${of(cards)})`,
      cards: sql<number>`(select count(*)::int ${of(cards)})`,
      clips: sql<number>`(select count(*)::int ${of(clips)})`,
    })
    .from(jobs)
    .orderBy(sql`${last} desc`);
  return rows.map((j) => ({
    ...j,
    createdAt: j.createdAt.toISOString(),
    putAwayAt: j.putAwayAt?.toISOString() ?? null,
    lastAt: j.lastAt.toISOString(),
  }));
}

/** What of a job is under way, in words; null where nothing is. */
export async function underWay({ db, job }: Pick<InJob, 'db' | 'job'>): Promise<string | null> {
  const [copy] = await db
    .select({ card: offloads.card })
    .from(offloads)
    .where(and(eq(offloads.job, job), inArray(offloads.state, [...UNDER_WAY])))
    .limit(1);
  if (copy) return `${copy.card} is being copied`;
  if ((await db.$count(plans, and(eq(plans.job, job), eq(plans.state, 'doing')))) > 0)
    return 'names are being given, or wait for their drive';
  const [open] = await db
    .select({ kind: work.kind })
    .from(work)
    .where(and(eq(work.job, job), inArray(work.state, [...OPEN_WORK])))
    .limit(1);
  return open ? `${WORK_WORDS[open.kind].toLowerCase()} is under way` : null;
}

/** Puts a job away, or takes it up again: while it is away it can be looked at, and nothing of it changes. */
export function putAway(runtime: InJob, away: boolean): Promise<void> {
  return runtime.exclusively(async () => {
    const job = await requireJob(runtime);
    if ((job.putAwayAt !== null) === away) return;
    const busy = away ? await underWay(runtime) : null;
    if (busy !== null)
      throw new Refused(`${job.name} cannot be archived yet: ${busy}.`, {
        next: 'Let it finish, or cancel it first.',
      });
    await runtime.db
      .update(jobs)
      .set({ putAwayAt: away ? new Date() : null })
      .where(eq(jobs.id, job.id));
    await writeLog(runtime, 'job', away ? 'Archived the job' : 'Reopened the job');
    runtime.events.changed('job', 'log');
  });
}
