import { Extraction } from '../../../../../../core/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

/** Begins to extract; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, Extraction, async (r, wanted) =>
    r.queue.begin({ kind: 'extract', job: r.job, wanted }),
  );
