import { MendRequest } from '../../../../../../../core/handover';
import { mendClips } from '../../../../../../../server/handover';
import { changeTo, type InJobContext } from '../../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, MendRequest, mendClips);
