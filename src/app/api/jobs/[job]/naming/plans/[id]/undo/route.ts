import { undoPlan } from '../../../../../../../../server/naming';
import { change, type InJobContext } from '../../../../../../answer';

/** Begins to take a plan back; answers with the task. */
export const POST = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  change(context, async (r, { id }) =>
    r.tasks.begin({ title: 'Taking names back', job: r.job }, (task) => undoPlan(r, id, task)),
  );
