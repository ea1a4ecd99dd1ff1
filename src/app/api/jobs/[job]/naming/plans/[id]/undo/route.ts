import { UndoRequest } from '../../../../../../../../core/naming';
import { changeTo, type InJobContext } from '../../../../../../answer';

/** Begins to take a plan back, or what it did to some clips; answers with the task. */
export const POST = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  changeTo(request, context, UndoRequest, async (r, { clips }, { id }) =>
    // Two askings for the whole of it are one.
    r.queue.begin({
      kind: 'undo',
      job: r.job,
      subject: clips.length === 0 ? id : '',
      wanted: { plan: id, clips },
    }),
  );
