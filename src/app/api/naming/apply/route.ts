import { ApplyRequest } from '../../../../core/shapes';
import { applyNaming } from '../../../../server/usecases/applyPlan';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, ApplyRequest, applyNaming);
