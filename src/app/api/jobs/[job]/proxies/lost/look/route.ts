import * as z from 'zod';
import { inJobTo, type InJobContext } from '../../../../../answer';

/** Begins to look for files that are not at their places; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, z.object({}), async (r) => r.queue.begin({ kind: 'findLost', job: r.job }));
