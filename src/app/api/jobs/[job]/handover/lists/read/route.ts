import { ListIn } from '../../../../../../../core/handover';
import { listView } from '../../../../../../../server/handover';
import { inJobTo, type InJobContext } from '../../../../../answer';

/** Which clips a list means, before anything is taken. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, ListIn, listView);
