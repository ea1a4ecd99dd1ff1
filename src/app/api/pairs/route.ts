import { MakeProxies } from '../../../core/proxies';
import { provePairs } from '../../../server/proxies';
import { answerTo } from '../answer';

/** Begins to prove pairs again; answers with the task. */
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, MakeProxies, async (r, { clips }) =>
    r.tasks.begin('Proving pairs', (task) => provePairs(r, clips, task)),
  );
