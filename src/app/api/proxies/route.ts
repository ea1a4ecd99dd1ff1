import { MakeProxies } from '../../../core/proxies';
import { proxiesView } from '../../../server/proxies';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(proxiesView);
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, MakeProxies, async (r, { clips }) => ({ added: await r.queue.add('proxy', clips) }));
