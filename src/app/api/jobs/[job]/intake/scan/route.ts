import * as z from 'zod';
import { scanClips } from '../../../../../../server/intake';
import { changeTo, type InJobContext } from '../../../../answer';

const Scan = z.object({ card: z.string().nullable() });

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Scan, (r, { card }) => scanClips(r, card));
