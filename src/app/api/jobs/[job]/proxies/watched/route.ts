import { ChosenClips } from '../../../../../../core/platform/shapes';
import { changeTo, type InJobContext } from '../../../../answer';

/** Begins to check picture and sound of clips; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ChosenClips, async (r, { clips }) =>
    r.queue.begin({ kind: 'watchThrough', job: r.job, wanted: clips }),
  );
