import { FactLinesQuery } from '../../../../../../core/facts';
import { factLines } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, FactLinesQuery, factLines);
