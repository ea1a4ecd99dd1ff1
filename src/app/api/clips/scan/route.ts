import { z } from 'zod';
import { scanClips } from '../../../../server/intake';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, z.object({ card: z.string().nullable() }), (r, { card }) => scanClips(r, card));
