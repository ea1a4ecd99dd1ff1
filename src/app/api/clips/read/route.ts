import { MakeProxies } from '../../../../core/proxies';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, MakeProxies, async (r, { clips }) => ({ added: await r.queue.add('read', clips) }));
