import { chosenClip } from '../../../../../../../server/choose';
import { inJob, type InJobContext } from '../../../../../answer';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, (runtime, { id }) => chosenClip(runtime, id));
