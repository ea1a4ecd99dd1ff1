import { changedClips } from '../../../../../../server/naming';
import { inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

/** Clips of which a file is not as it was read. */
export const GET = (_: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) => changedClips(r));
