import { RootChange } from '../../../../../core/places';
import { changeRoot, removeRoot } from '../../../../../server/places';
import { answer, answerTo } from '../../../answer';

interface Context {
  params: Promise<{ id: string }>;
}

export const PATCH = (request: Request, { params }: Context): Promise<Response> =>
  answerTo(request, RootChange, async (r, change) => changeRoot(r, (await params).id, change));

export const DELETE = (_: Request, { params }: Context): Promise<Response> =>
  answer(async (r) => removeRoot(r, (await params).id));
