import { CheckFolder } from '../../../core/copying/shapes';
import { checkAnyFolder } from '../../../server/usecases/safeCopies';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, CheckFolder, checkAnyFolder);
