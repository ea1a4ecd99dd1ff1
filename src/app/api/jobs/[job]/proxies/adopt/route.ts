import { Adopt } from '../../../../../../core/proxies';
import { adopt } from '../../../../../../server/proxies';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Adopt, adopt);
