import { Correction } from '../../../../core/facts/shapes';
import { correctClips } from '../../../../server/usecases/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, Correction, correctClips);
