import { WatchOptions } from '../../../../../../core/watch';
import { dropWatch, lookNow, setWatch } from '../../../../../../server/watch';
import { change, changeTo, type InJobContext } from '../../../../answer';

type Context = InJobContext<{ id: string }>;

/** Looks at it now. */
export const POST = (_: Request, context: Context): Promise<Response> =>
  change(context, (runtime, { id }) => lookNow(runtime, id));
export const PATCH = (request: Request, context: Context): Promise<Response> =>
  changeTo(request, context, WatchOptions, (runtime, options, { id }) => setWatch(runtime, id, options));
export const DELETE = (_: Request, context: Context): Promise<Response> =>
  change(context, (runtime, { id }) => dropWatch(runtime, id));
