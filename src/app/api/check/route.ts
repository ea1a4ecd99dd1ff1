import { CheckFolder } from '../../../core/custody';
import { checkAnyFolder } from '../../../server/custody';
import { answerTo } from '../answer';

/** Begins to check a folder; answers with the task. */
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, CheckFolder, async (r, body) =>
    r.tasks.begin('Checking a folder', (task) => checkAnyFolder(r, body, task)),
  );
