import { dropForm } from '../../../../../server/handover';
import { answer } from '../../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => dropForm(r, (await params).id));
