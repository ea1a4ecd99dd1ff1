import { KeepTemplate } from '../../../../../core/templates';
import { keepTemplate } from '../../../../../server/templates';
import { inJobTo, type InJobContext } from '../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, KeepTemplate, keepTemplate);
