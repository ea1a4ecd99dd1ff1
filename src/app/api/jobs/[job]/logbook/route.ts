import { LogQuery } from '../../../../../core/logbook';
import { logView } from '../../../../../server/overview';
import { inJob, type InJobContext } from '../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) => logView(r, LogQuery.parse(Object.fromEntries(new URL(request.url).searchParams))));
