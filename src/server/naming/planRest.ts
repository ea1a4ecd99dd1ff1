import type { NamingPreview, NamingRequest, NamingRow } from '../../core/naming/shapes';
import { requireJob } from '../jobs';
import { planNaming } from './naming';
import type { InJob } from './ports';

/** The convention, folders and rules of the job, as a request has them. */
export async function settingsOf(
  runtime: InJob,
): Promise<Pick<NamingRequest, 'convention' | 'folderPlan' | 'rules' | 'systems'>> {
  const { convention, folderPlan, naming } = await requireJob(runtime);
  return { convention, folderPlan, ...naming };
}

export interface Stopped {
  row: NamingRow;
  why: string;
}

/** Plans what a request asks for without the clips that a problem stops, which are said with the first of their problems. */
export async function planRest(
  runtime: InJob,
  asked: NamingRequest,
): Promise<{ request: NamingRequest; preview: NamingPreview; stopped: Stopped[] }> {
  let request = asked;
  let { preview } = await planNaming(runtime, request);
  const stopped = preview.rows.flatMap((row) => {
    const stop = row.problems.find((p) => p.level === 'stop');
    return stop ? [{ row, why: stop.text }] : [];
  });
  if (stopped.length > 0) {
    request = { ...asked, without: [...asked.without, ...stopped.map((s) => s.row.clipId)] };
    ({ preview } = await planNaming(runtime, request));
  }
  return { request, preview, stopped };
}
