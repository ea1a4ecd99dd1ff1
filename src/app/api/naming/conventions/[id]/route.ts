import { dropConvention } from '../../../../../server/naming';
import { answer } from '../../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => dropConvention(r, (await params).id));
