import * as z from 'zod';
import { viewFrame } from '../../../../../../../server/viewing';
import { inJob, type InJobContext } from '../../../../../answer';

const Query = z.object({
  which: z.enum(['original', 'proxy']),
  frame: z.coerce.number().int().min(0),
  width: z.coerce.number().int().min(16).max(4096).default(960),
});

export const GET = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    const { which, frame, width } = Query.parse(Object.fromEntries(new URL(request.url).searchParams));
    const jpeg = await viewFrame(r, id, which, frame, width, request.signal);
    return new Response(new Uint8Array(jpeg), {
      headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=60' },
    });
  });
