import { FormFile } from '../../../../../core/handover';
import { importForms } from '../../../../../server/handover';
import { answerTo } from '../../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, FormFile, importForms);
