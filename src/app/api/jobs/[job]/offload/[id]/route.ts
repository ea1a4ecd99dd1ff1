import { OffloadAction } from '../../../../../../core/offload';
import { actOnOffload, offloadDetail } from '../../../../../../server/offload';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

type Context = InJobContext<{ id: string }>;

export const GET = (_: Request, context: Context): Promise<Response> =>
  inJob(context, (r, { id }) => offloadDetail(r, id));
export const POST = (request: Request, context: Context): Promise<Response> =>
  changeTo(request, context, OffloadAction, (r, action, { id }) => actOnOffload(r, id, action));
