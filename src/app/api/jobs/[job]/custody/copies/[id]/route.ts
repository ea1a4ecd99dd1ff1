import { beginCheck } from '../../../../../../../server/custody';
import { inJob, type InJobContext } from '../../../../../answer';

/** Begins to check a safe copy again; answers with the task. */
export const POST = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, (r, { id }) => beginCheck(r, id));
