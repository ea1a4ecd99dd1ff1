import { StandInAction } from '../../../../core/offload';
import { actOnStandIn, standInsView } from '../../../../demo/standIns/standIns';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(async () => standInsView());
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, StandInAction, async (r, action) => {
    actOnStandIn(action);
    r.events.changed('copies');
  });
