import { forgetCard } from '../../../../server/intake';
import { cardDetail } from '../../../../server/overview';
import { answer } from '../../answer';

export const GET = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => cardDetail(r, (await params).id));
export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => forgetCard(r, (await params).id));
