import { Correction } from '../../../../core/facts';
import { correctClips } from '../../../../server/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, Correction, correctClips);
