import { PairAction } from '../../../../../../core/proxies';
import { actOnPair } from '../../../../../../server/proxies';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, PairAction, actOnPair);
