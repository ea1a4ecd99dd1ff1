import { WorkAction } from '../../../core/platform/shapes';
import { workSummary } from '../../../server/proxies';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(workSummary);
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, WorkAction, async (r, { action, work }) => ({
    changed: action === 'cancel' ? await r.queue.cancel(work) : await r.queue.retry(work),
  }));
