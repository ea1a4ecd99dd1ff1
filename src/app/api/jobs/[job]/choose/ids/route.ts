import { FindIds } from '../../../../../../core/choose';
import { findIds } from '../../../../../../server/choose';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, FindIds, findIds);
