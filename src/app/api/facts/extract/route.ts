import { Extraction } from '../../../../core/facts/shapes';
import { extract } from '../../../../server/facts/extract';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, Extraction, extract);
