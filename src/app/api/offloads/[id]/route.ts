import { OffloadAction } from '../../../../core/offload';
import { actOnOffload, offloadDetail } from '../../../../server/offload';
import { answer, answerTo } from '../../answer';

interface Context {
  params: Promise<{ id: string }>;
}

export const GET = (_: Request, { params }: Context): Promise<Response> =>
  answer(async (r) => offloadDetail(r, (await params).id));
export const POST = (request: Request, { params }: Context): Promise<Response> =>
  answerTo(request, OffloadAction, async (r, action) => actOnOffload(r, (await params).id, action));
