import { NewRoot } from '../../../core/places/shapes';
import { addRoot } from '../../../server/places/roots';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, NewRoot, addRoot);
