import { Extraction } from '../../../../core/facts';
import { extract } from '../../../../server/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, Extraction, extract);
