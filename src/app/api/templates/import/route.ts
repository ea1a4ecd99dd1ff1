import { TemplateFile } from '../../../../core/templates';
import { importTemplates } from '../../../../server/templates';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, TemplateFile, importTemplates);
