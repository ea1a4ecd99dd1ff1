import { ConventionFile } from '../../../../../core/naming';
import { importConventions } from '../../../../../server/naming';
import { answerTo } from '../../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, ConventionFile, importConventions);
