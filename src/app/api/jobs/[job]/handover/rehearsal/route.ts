import { RehearsalQuery } from '../../../../../../core/handover';
import { rehearsalView } from '../../../../../../server/handover';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, RehearsalQuery, rehearsalView);
