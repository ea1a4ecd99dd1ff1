import { TakeIn } from '../../../core/intake/shapes';
import { takeIn } from '../../../server/intake/takeIn';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, TakeIn, takeIn);
