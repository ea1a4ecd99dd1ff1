import { openSuspicions } from '../../../../../../../server/facts';
import { inJob, type InJobContext } from '../../../../../answer';

export const dynamic = 'force-dynamic';

/** How many clocks look wrong and wait for a decision. */
export const GET = (_: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (r) => ({ count: (await openSuspicions(r)).length }));
