import { Clock } from '../../../../../../core/facts';
import { clocksView, setClock } from '../../../../../../server/facts';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, clocksView);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Clock, setClock);
