import { dropFieldSet } from '../../../../../server/facts';
import { answer } from '../../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => dropFieldSet(r, (await params).id));
