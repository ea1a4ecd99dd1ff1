import { CheckFolder } from '../../../../../../core/custody';
import { checkAnyFolder } from '../../../../../../server/custody';
import { inJobTo, type InJobContext } from '../../../../answer';

/** Begins to check a folder; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, CheckFolder, async (r, body) =>
    r.tasks.begin({ title: 'Checking a folder', job: r.job }, (task) => checkAnyFolder(r, body, task)),
  );
