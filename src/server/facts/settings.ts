import type { JobSettings } from '../../core/jobs';
import { saveSettings } from '../jobs';
import type { InJob } from './ports';
import { upToDate } from './workOut';

/** Changes the job's settings; facts that are worked out from them are worked out again. */
export async function changeSettings(runtime: InJob, settings: JobSettings): Promise<void> {
  await saveSettings(runtime, settings);
  await upToDate(runtime);
}
