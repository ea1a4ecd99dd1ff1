import { ChosenClips } from '../../../../../../core/platform/shapes';
import { provePairs } from '../../../../../../server/proxies';
import { changeTo, type InJobContext } from '../../../../answer';

/** Begins to prove pairs again; answers with the task. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ChosenClips, async (r, { clips }) =>
    r.tasks.begin({ title: 'Proving pairs', job: r.job }, (task) => provePairs(r, clips, task)),
  );
