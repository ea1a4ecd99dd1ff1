import { openSuspicions } from '../../../../../../../server/facts';
import { inJob, type InJobContext } from '../../../../../answer';

export const dynamic = 'force-dynamic';

/** Clocks that look wrong and wait for a decision. */
export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, openSuspicions);
