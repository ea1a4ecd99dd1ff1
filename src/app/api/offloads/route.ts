import { NewOffload } from '../../../core/offload';
import { beginOffload, offloadViews } from '../../../server/offload';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(offloadViews);
export const POST = (request: Request): Promise<Response> => answerTo(request, NewOffload, beginOffload);
