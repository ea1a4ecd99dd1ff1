import { TakeIn } from '../../../../../core/intake';
import { takeIn } from '../../../../../server/intake';
import { changeTo, type InJobContext } from '../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, TakeIn, takeIn);
