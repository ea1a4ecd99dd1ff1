import { Change } from '../../../../../core/choose';
import { changeChoice, chooseView } from '../../../../../server/choose';
import { changeTo, inJob, type InJobContext } from '../../../answer';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, chooseView);

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Change, changeChoice);
