import { unreadClips } from '../../../../../../server/facts';
import { inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

/** Clips that could not be read, each with the reason. */
export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, unreadClips);
