import { PackageAction } from '../../../../../../../core/handover';
import { actOnPackage, dropPackage, packageView } from '../../../../../../../server/handover';
import { change, changeTo, inJob, type InJobContext } from '../../../../../answer';

type Context = InJobContext<{ id: string }>;

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: Context): Promise<Response> =>
  inJob(context, (r, { id }) => packageView(r, id));
export const POST = (request: Request, context: Context): Promise<Response> =>
  changeTo(request, context, PackageAction, (r, action, { id }) => actOnPackage(r, id, action));
export const DELETE = (_: Request, context: Context): Promise<Response> =>
  change(context, (r, { id }) => dropPackage(r, id));
