import { makeAlike } from '../../../../../../../../server/handover';
import { change, type InJobContext } from '../../../../../../answer';

export const POST = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  change(context, (runtime, { id }) => makeAlike(runtime, id));
