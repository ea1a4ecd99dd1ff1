import { Sayings } from '../../../../../../core/facts';
import { sayOfClips } from '../../../../../../server/facts';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Sayings, sayOfClips);
