import { NewFromTemplate } from '../../../../core/templates';
import { beginFromTemplate } from '../../../../server/templates';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, NewFromTemplate, beginFromTemplate);
