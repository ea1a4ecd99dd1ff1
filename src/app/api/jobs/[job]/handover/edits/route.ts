import { NewEdit } from '../../../../../../core/handover';
import { editNames, takeEdit } from '../../../../../../server/handover';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, editNames);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, NewEdit, takeEdit);
