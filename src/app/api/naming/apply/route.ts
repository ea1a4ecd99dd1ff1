import { ApplyRequest } from '../../../../core/naming';
import { applyNaming } from '../../../../server/naming';
import { answerTo } from '../../answer';

/** Begins to apply a plan; answers with the task. */
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, ApplyRequest, async (r, body) =>
    r.tasks.begin('Naming', (task) => applyNaming(r, body, task)),
  );
