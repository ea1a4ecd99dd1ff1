import { dropClock } from '../../../../server/facts';
import { answer } from '../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => dropClock(r, (await params).id));
