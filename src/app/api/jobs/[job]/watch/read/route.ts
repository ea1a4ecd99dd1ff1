import { ReadFinds } from '../../../../../../core/watch';
import { readFinds } from '../../../../../../server/watch';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, ReadFinds, (runtime, { watch }) => readFinds(runtime, watch));
