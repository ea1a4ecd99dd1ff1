import { NotFound } from '../../../../../../../server/platform/errors';
import { waveform } from '../../../../../../../server/viewing';
import { inJob, type InJobContext } from '../../../../../answer';

export const GET = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    if (!/^[0-9a-f-]{36}$/.test(id)) throw new NotFound('There is no such clip.');
    return Response.json(await waveform(r, id));
  });
