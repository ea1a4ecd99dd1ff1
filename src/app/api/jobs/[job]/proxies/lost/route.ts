import { TakeFound } from '../../../../../../core/proxies';
import { takeFound } from '../../../../../../server/proxies';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, TakeFound, takeFound);
