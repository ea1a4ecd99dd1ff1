import { RecipeFile } from '../../../../../core/proxies';
import { importRecipes } from '../../../../../server/proxies';
import { answerTo } from '../../../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, RecipeFile, importRecipes);
