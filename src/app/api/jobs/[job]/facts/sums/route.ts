import { factSums } from '../../../../../../server/facts';
import { inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, factSums);
