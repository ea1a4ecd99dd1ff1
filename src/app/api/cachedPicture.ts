import { cached, thirdsOf } from '../../server/analysis';
import { NotFound } from '../../server/platform/errors';
import { readFile } from '../../server/platform/files/onDisk';
import { inJob, type InJobContext } from './answer';

/** A picture of a clip out of the cache. */
export const cachedPicture = (
  what: 'filmstrips' | 'posters' | 'thirds',
  context: InJobContext<{ id: string }>,
): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    if (!/^[0-9a-f-]{36}$/.test(id)) throw new NotFound('There is no such clip.');
    const picture = await (what === 'thirds' ? thirdsOf(r, id) : readFile(cached(r, what, id))).catch(() => {
      throw new NotFound('This picture has not been made yet.');
    });
    return new Response(new Uint8Array(picture), {
      headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=300' },
    });
  });
