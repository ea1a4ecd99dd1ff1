import { open } from 'node:fs/promises';
import { NotFound } from '../../../../../../../server/platform/errors';
import { filmstripPath } from '../../../../../../../server/viewing';
import { inJob, type InJobContext } from '../../../../../answer';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    if (!/^[0-9a-f-]{36}$/.test(id)) throw new NotFound('There is no such clip.');
    const file = await open(filmstripPath(r, id)).catch(() => {
      throw new NotFound('The filmstrip has not been made yet.');
    });
    try {
      return new Response(new Uint8Array(await file.readFile()), {
        headers: { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=300' },
      });
    } finally {
      await file.close();
    }
  });
