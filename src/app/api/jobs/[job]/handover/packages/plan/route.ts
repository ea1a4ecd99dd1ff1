import { NewPackage } from '../../../../../../../core/handover';
import { planView } from '../../../../../../../server/handover';
import { inJobTo, type InJobContext } from '../../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, NewPackage, planView);
