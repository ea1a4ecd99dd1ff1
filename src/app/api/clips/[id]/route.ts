import { clipDetail } from '../../../../server/overview';
import { answer } from '../../answer';

export const GET = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => clipDetail(r, (await params).id));
