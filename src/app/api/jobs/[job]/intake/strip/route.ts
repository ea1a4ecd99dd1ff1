import { FileQuery } from '../../../../../../core/places';
import { stripOf } from '../../../../../../server/intake';
import { inJob, type InJobContext } from '../../../../answer';

export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (r) => {
    const jpeg = await stripOf(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams)));
    return new Response(new Uint8Array(jpeg), {
      headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=3600' },
    });
  });
