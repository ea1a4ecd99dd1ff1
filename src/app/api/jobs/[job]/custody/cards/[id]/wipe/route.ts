import { wipeView } from '../../../../../../../../server/custody';
import { inJob, type InJobContext } from '../../../../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, (r, { id }) => wipeView(r, id));
