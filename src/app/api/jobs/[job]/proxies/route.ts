import { MakeRequest } from '../../../../../core/proxies';
import { addWork } from '../../../../../server/cards';
import { proxiesView } from '../../../../../server/proxies';
import { changeTo, inJob, type InJobContext } from '../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, proxiesView);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, MakeRequest, (r, { clips, recipe, part }) =>
    addWork(r, 'proxy', clips, recipe || part ? { recipe, ...(part ? { part } : {}) } : null),
  );
