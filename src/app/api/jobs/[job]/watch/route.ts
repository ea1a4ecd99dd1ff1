import { NewWatch } from '../../../../../core/watch';
import { watchFolder, watchViews } from '../../../../../server/watch';
import { changeTo, inJob, type InJobContext } from '../../../answer';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, watchViews);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, NewWatch, watchFolder);
