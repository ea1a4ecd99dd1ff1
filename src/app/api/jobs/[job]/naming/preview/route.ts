import { NamingRequest } from '../../../../../../core/naming';
import { planNaming } from '../../../../../../server/naming';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, NamingRequest, async (r, body) => (await planNaming(r, body)).preview);
