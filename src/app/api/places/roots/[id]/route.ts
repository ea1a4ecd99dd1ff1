import { removeRoot } from '../../../../../server/places';
import { answer } from '../../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => removeRoot(r, (await params).id));
