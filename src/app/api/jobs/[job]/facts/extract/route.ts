import { Extraction } from '../../../../../../core/facts';
import { extract } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, Extraction, extract);
