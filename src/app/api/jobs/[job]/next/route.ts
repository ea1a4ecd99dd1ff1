import { NextAnswer } from '../../../../../core/next';
import { readAgain } from '../../../../../server/intake';
import { answerNext, nextView } from '../../../../../server/next';
import { changeTo, inJob, type InJobContext } from '../../../answer';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, nextView);
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, NextAnswer, (runtime, answer) => answerNext(runtime, answer, readAgain));
