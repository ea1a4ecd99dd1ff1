import { Recipe } from '../../../../core/proxies';
import { keepRecipe, recipesView } from '../../../../server/proxies';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(recipesView);
export const POST = (request: Request): Promise<Response> => answerTo(request, Recipe, keepRecipe);
