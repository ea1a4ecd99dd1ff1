import { planDetail } from '../../../../../../../server/overview';
import { inJob, type InJobContext } from '../../../../../answer';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, (r, { id }) => planDetail(r, id));
