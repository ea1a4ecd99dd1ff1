import { TakeIn } from '../../../core/shapes';
import { takeIn } from '../../../server/usecases/takeIn';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, TakeIn, takeIn);
