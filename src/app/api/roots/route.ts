import { NewRoot } from '../../../core/shapes';
import { addRoot } from '../../../server/usecases/roots';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, NewRoot, addRoot);
