import { ListIn } from '../../../../../../core/handover';
import { takeList } from '../../../../../../server/handover';
import { changeTo, type InJobContext } from '../../../../answer';

/** Takes in what a list says of clips. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ListIn, takeList);
