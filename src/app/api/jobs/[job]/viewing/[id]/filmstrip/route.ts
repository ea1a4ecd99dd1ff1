import { cached } from '../../../../../../../server/analysis';
import { readFile } from '../../../../../../../server/platform/files/onDisk';
import type { InJobContext } from '../../../../../answer';
import { cachedPicture } from '../../../../../cachedPicture';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  cachedPicture(context, (r, { id }) => readFile(cached(r, 'filmstrips', id)));
