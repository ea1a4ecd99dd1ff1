import { posterOf } from '../../../../../../../server/analysis';
import type { InJobContext } from '../../../../../answer';
import { cachedPicture } from '../../../../../cachedPicture';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  cachedPicture(context, (r, { id }) => posterOf(r, id));
