import { checkAgain } from '../../../../../../../server/custody';
import { inJob, type InJobContext } from '../../../../../answer';

/** Begins to check a safe copy again; answers with the task. */
export const POST = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) =>
    r.tasks.begin({ title: 'Checking a copy', job: r.job, subject: id }, (task) => checkAgain(r, id, task)),
  );
