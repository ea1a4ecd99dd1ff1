import { asc, eq } from 'drizzle-orm';
import type { JobSettings, JobView } from '../../core/jobs/shapes';
import { cameras, days } from '../cards/tables';
import { jobs } from './tables';
import type { InJob } from './ports';
import { writeLog } from '../logbook';
import { rootViews } from '../places';
import { requireJob } from './requireJob';

export async function saveSettings(runtime: InJob, settings: JobSettings): Promise<void> {
  const job = await requireJob(runtime);
  await runtime.db
    .update(jobs)
    .set({
      convention: settings.convention ?? job.convention,
      folderPlan: settings.folderPlan ?? job.folderPlan,
      naming: settings.naming ?? job.naming,
      proxies: settings.proxies ?? job.proxies,
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
        : 'Copies on drives that are offline no longer count',
    );
    runtime.events.changed('copies', 'log');
  }
  if (settings.serversApart !== undefined && settings.serversApart !== job.serversApart) {
    await writeLog(
      runtime,
      'job',
      settings.serversApart
        ? 'Copies on servers of different addresses count as two from now on'
        : 'Copies on servers of different addresses no longer count as two',
    );
    runtime.events.changed('copies', 'log');
  }
  runtime.events.changed('job');
}

export async function jobView(runtime: InJob): Promise<JobView> {
  const job = await requireJob(runtime);
  return {
    id: job.id,
    putAwayAt: job.putAwayAt?.toISOString() ?? null,
    name: job.name,
    code: job.code,
    zoneMinutes: job.zoneMinutes,
    dayStart: job.dayStart,
    rate: job.rate,
    trust: job.trust,
    convention: job.convention,
    folderPlan: job.folderPlan,
    naming: job.naming,
    proxies: job.proxies,
    intake: job.intake,
    days: await runtime.db
      .select({ number: days.number, date: days.date })
      .from(days)
      .where(eq(days.job, job.id))
      .orderBy(asc(days.number)),
    cameras: await runtime.db
      .select({ label: cameras.label, model: cameras.model })
      .from(cameras)
      .where(eq(cameras.job, job.id))
      .orderBy(asc(cameras.label)),
    roots: await rootViews(runtime),
  };
}
