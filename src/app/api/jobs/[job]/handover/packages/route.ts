import { NewPackage } from '../../../../../../core/handover';
import { packageNames, sendPackage } from '../../../../../../server/handover';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, packageNames);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, NewPackage, sendPackage);
