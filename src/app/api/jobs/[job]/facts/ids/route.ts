import { FactIdsQuery } from '../../../../../../core/facts';
import { factIds } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, FactIdsQuery, factIds);
