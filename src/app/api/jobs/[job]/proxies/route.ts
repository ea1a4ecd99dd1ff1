import { ChosenClips } from '../../../../../core/platform/shapes';
import { addWork } from '../../../../../server/cards';
import { proxiesView } from '../../../../../server/proxies';
import { changeTo, inJob, type InJobContext } from '../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, proxiesView);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ChosenClips, (r, { clips }) => addWork(r, 'proxy', clips));
