import { FileQuery } from '../../../../core/places';
import { stripOf } from '../../../../server/intake';
import { answer } from '../../answer';

export const GET = (request: Request): Promise<Response> =>
  answer(async (r) => {
    const jpeg = await stripOf(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams)));
    return new Response(new Uint8Array(jpeg), {
      headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=3600' },
    });
  });
