import { ComingRequest } from '../../../../../../core/naming';
import { comingClips } from '../../../../../../server/naming';
import { inJobTo, type InJobContext } from '../../../../answer';

/** Clips of a card that is not copied yet, for the bench to name. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, ComingRequest, (r, { fields, ...coming }) => comingClips(r, coming, fields));
