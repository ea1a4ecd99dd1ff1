import { wipeView } from '../../../../../server/custody';
import { answer } from '../../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => wipeView(r, (await params).id));
