import { ApplyRequest } from '../../../../../../core/naming';
import { changeTo, type InJobContext } from '../../../../answer';

/** Begins to apply a plan; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ApplyRequest, async (r, wanted) =>
    r.queue.begin({ kind: 'name', job: r.job, wanted }),
  );
