import { AdoptSearch } from '../../../../../../../core/proxies';
import { inJobTo, type InJobContext } from '../../../../../answer';

/** Begins to look for proxies; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, AdoptSearch, async (r, wanted) =>
    r.queue.begin({ kind: 'adopt', job: r.job, wanted }),
  );
