import { Third } from '../../../../../../../../core/analysis';
import { thirdOf } from '../../../../../../../../server/analysis';
import type { InJobContext } from '../../../../../../answer';
import { cachedPicture } from '../../../../../../cachedPicture';

export const GET = (_: Request, context: InJobContext<{ id: string; third: string }>): Promise<Response> =>
  cachedPicture(context, async (r, { id, third }) => thirdOf(r, id, Third.parse(third)));
