import { Extraction } from '../../../../core/facts/shapes';
import { extract } from '../../../../server/usecases/extract';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, Extraction, extract);
