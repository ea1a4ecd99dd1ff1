import { Kept } from '../../../../core/naming';
import { conventionsView, keepConvention } from '../../../../server/naming';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(conventionsView);
export const POST = (request: Request): Promise<Response> => answerTo(request, Kept, keepConvention);
