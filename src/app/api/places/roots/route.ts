import { NewRoot } from '../../../../core/places';
import { addRoot } from '../../../../server/places';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, NewRoot, addRoot);
