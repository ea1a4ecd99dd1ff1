import { NewOffload } from '../../../../../core/offload';
import { beginOffload, offloadViews } from '../../../../../server/offload';
import { changeTo, inJob, type InJobContext } from '../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, offloadViews);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, NewOffload, beginOffload);
