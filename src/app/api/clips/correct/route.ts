import { Correction } from '../../../../core/facts/shapes';
import { correctClips } from '../../../../server/facts/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, Correction, correctClips);
