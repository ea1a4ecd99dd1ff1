import { TryRecipe } from '../../../../../../core/proxies';
import { tryRecipe } from '../../../../../../server/proxies';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, TryRecipe, tryRecipe);
