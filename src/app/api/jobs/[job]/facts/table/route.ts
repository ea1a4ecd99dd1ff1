import { FactPageQuery } from '../../../../../../core/facts';
import { factPage } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, FactPageQuery, factPage);
