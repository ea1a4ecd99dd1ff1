import { Extraction } from '../../../../../../core/facts';
import { extract } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

/** Begins to extract; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, Extraction, async (r, wanted) =>
    r.tasks.begin({ title: 'Extracting facts', job: r.job }, (task) => extract(r, wanted, task)),
  );
