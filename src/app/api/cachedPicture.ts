import { NotFound } from '../../server/platform/errors';
import { inJob, type InJobContext } from './answer';

/** A picture of a clip out of the cache, as `read` finds it there. */
export const cachedPicture = <P extends { id: string }>(
  context: InJobContext<P>,
  read: (runtime: { home: string }, of: P) => Promise<Uint8Array>,
): Promise<Response> =>
  inJob(context, async (r, of) => {
    if (!/^[0-9a-f-]{36}$/.test(of.id)) throw new NotFound('There is no such clip.');
    const picture = await read(r, of).catch(() => {
      throw new NotFound('This picture has not been made yet.');
    });
    return new Response(new Uint8Array(picture), {
      headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=300' },
    });
  });
