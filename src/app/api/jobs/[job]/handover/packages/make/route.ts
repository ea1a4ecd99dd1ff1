import { NewPackage } from '../../../../../../../core/handover';
import { makeForPackage } from '../../../../../../../server/handover';
import { changeTo, type InJobContext } from '../../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, NewPackage, makeForPackage);
