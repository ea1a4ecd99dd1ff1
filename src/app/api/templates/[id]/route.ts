import { dropTemplate } from '../../../../server/templates';
import { answer } from '../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => dropTemplate(r, (await params).id));
