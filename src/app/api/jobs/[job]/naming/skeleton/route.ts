import { SkeletonRequest } from '../../../../../../core/naming';
import { skeleton } from '../../../../../../server/naming';
import { inJobTo, type InJobContext } from '../../../../answer';

/** Further folders of the shelf: which are there, and the others made where it is asked for. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, SkeletonRequest, skeleton);
