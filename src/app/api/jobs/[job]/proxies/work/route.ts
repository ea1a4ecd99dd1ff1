import { WorkAction } from '../../../../../../core/platform/shapes';
import { actOnWork, workSummary } from '../../../../../../server/proxies';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, workSummary);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, WorkAction, actOnWork);
