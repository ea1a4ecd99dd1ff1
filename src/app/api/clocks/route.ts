import { Clock } from '../../../core/facts';
import { clocksView, setClock } from '../../../server/facts';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(clocksView);
export const POST = (request: Request): Promise<Response> => answerTo(request, Clock, setClock);
