import { Also, RescueChoice } from '../../../../core/records';
import { rescue, rescueView } from '../../../../server/rescue';
import { said, saidTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (request: Request): Promise<Response> =>
  said(() => rescueView(Also.parse(new URL(request.url).searchParams.getAll('also'))));
export const POST = (request: Request): Promise<Response> => saidTo(request, RescueChoice, rescue);
