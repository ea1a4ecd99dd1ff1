import { Correction } from '../../../../../../core/facts';
import { correctClips } from '../../../../../../server/facts';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Correction, correctClips);
