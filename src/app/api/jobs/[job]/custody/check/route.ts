import { CheckFolder } from '../../../../../../core/custody';
import { inJobTo, type InJobContext } from '../../../../answer';

/** Begins to check a folder; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, CheckFolder, async (r, wanted) =>
    r.queue.begin({ kind: 'checkFolder', job: r.job, wanted }),
  );
