import { FindQuery } from '../../../../../../core/choose';
import { findClips } from '../../../../../../server/choose';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, FindQuery, findClips);
