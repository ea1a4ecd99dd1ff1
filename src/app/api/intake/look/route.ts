import { FolderQuery } from '../../../../core/shapes';
import { look } from '../../../../server/usecases/takeIn';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, FolderQuery, (r, { root, path }) => look(r, root, path));
