import { Listen } from '../../../../../../core/choose';
import { changeTo, type InJobContext } from '../../../../answer';

/** Begins to compare the sound of clips that roll together; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Listen, async (r, wanted) =>
    r.queue.begin({ kind: 'listen', job: r.job, wanted }),
  );
