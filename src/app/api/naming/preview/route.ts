import { NamingRequest } from '../../../../core/naming';
import { planNaming } from '../../../../server/naming';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, NamingRequest, async (r, body) => (await planNaming(r, body)).preview);
