import { dropRecipe } from '../../../../../server/proxies';
import { answer } from '../../../answer';

export const DELETE = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => dropRecipe(r, (await params).id));
