import { ApplyRequest } from '../../../../../../core/naming';
import { applyNaming } from '../../../../../../server/naming';
import { changeTo, type InJobContext } from '../../../../answer';

/** Begins to apply a plan; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ApplyRequest, async (r, body) =>
    r.tasks.begin({ title: 'Naming', job: r.job }, (task) => applyNaming(r, body, task)),
  );
