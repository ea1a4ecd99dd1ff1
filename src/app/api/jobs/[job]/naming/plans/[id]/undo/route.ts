import { change, type InJobContext } from '../../../../../../answer';

/** Begins to take a plan back; answers with the task. */
export const POST = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  change(context, async (r, { id }) => r.queue.begin({ kind: 'undo', job: r.job, subject: id }));
