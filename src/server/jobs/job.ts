import { asc, eq } from 'drizzle-orm';
import { FIRST_CONVENTION, FIRST_FOLDER_PLAN } from '../../core/naming';
import { FIRST_INTAKE } from '../../core/intake';
import type { JobSettings, JobView, NewJob } from '../../core/jobs/shapes';
import { cameras, days, jobs } from '../platform/db/schema';
import { Clash } from '../platform/errors';
import type { Runtime } from '../runtime';
import { writeLog } from '../logbook';
import { rootViews } from '../places';
import { findJob, theJob } from './theJob';

/** Begins the job. `zoneMinutes` defaults to where the server stands today. */
export async function beginJob(runtime: Runtime, wanted: NewJob): Promise<void> {
  if (await findJob(runtime))
    throw new Clash('A job has been begun here already.', {
      next: 'Set SORT_SHELF_HOME to another folder for another job.',
    });
  await runtime.db.insert(jobs).values({
    id: 'job',
    name: wanted.name,
    code: wanted.code,
    zoneMinutes: wanted.zoneMinutes ?? -new Date().getTimezoneOffset(),
    convention: FIRST_CONVENTION,
    folderPlan: FIRST_FOLDER_PLAN,
    intake: FIRST_INTAKE,
  });
  if (wanted.cameras?.length) await runtime.db.insert(cameras).values(wanted.cameras);
  await writeLog(runtime, 'job', `Began the job ${wanted.name} (${wanted.code})`);
  runtime.events.changed('job', 'log');
}

export async function saveSettings(runtime: Runtime, settings: JobSettings): Promise<void> {
  const job = await theJob(runtime);
  await runtime.db
    .update(jobs)
    .set({
      convention: settings.convention ?? job.convention,
      folderPlan: settings.folderPlan ?? job.folderPlan,
      intake: settings.intake ?? job.intake,
      dayStart: settings.dayStart ?? job.dayStart,
      rate: settings.rate === undefined ? job.rate : settings.rate,
      trust: settings.trust ?? job.trust,
      offlineCounts: settings.offlineCounts ?? job.offlineCounts,
      serversApart: settings.serversApart ?? job.serversApart,
    })
    .where(eq(jobs.id, job.id));
  if (settings.offlineCounts !== undefined && settings.offlineCounts !== job.offlineCounts) {
    await writeLog(
      runtime,
      'job',
      settings.offlineCounts
        ? 'Copies on drives that are offline count from now on, as they were last seen'
        : 'Copies on drives that are offline do not count any more',
    );
    runtime.events.changed('copies', 'log');
  }
  if (settings.serversApart !== undefined && settings.serversApart !== job.serversApart) {
    await writeLog(
      runtime,
      'job',
      settings.serversApart
        ? 'Copies on servers of different addresses count as two from now on'
        : 'Copies on servers of different addresses do not count as two any more',
    );
    runtime.events.changed('copies', 'log');
  }
  runtime.events.changed('job');
}

export async function jobView(runtime: Runtime): Promise<JobView | null> {
  const job = await findJob(runtime);
  if (!job) return null;
  return {
    name: job.name,
    code: job.code,
    zoneMinutes: job.zoneMinutes,
    dayStart: job.dayStart,
    rate: job.rate,
    trust: job.trust,
    convention: job.convention,
    folderPlan: job.folderPlan,
    intake: job.intake,
    days: await runtime.db.select().from(days).orderBy(asc(days.number)),
    cameras: await runtime.db.select().from(cameras).orderBy(asc(cameras.letter)),
    roots: await rootViews(runtime),
  };
}
