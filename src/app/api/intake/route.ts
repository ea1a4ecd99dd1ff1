import { TakeIn } from '../../../core/intake';
import { takeIn } from '../../../server/intake';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, TakeIn, takeIn);
