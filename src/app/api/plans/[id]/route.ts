import { planDetail } from '../../../../server/overview';
import { answer } from '../../answer';

export const GET = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => planDetail(r, (await params).id));
