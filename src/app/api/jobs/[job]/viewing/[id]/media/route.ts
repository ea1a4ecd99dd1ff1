import * as z from 'zod';
import { clipFile } from '../../../../../../../server/cards';
import { inJob, type InJobContext } from '../../../../../answer';
import { fileResponse } from '../../../../../fileResponse';

const Which = z.enum(['original', 'proxy']);

/** The file itself, for the browser's player. */
export const GET = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    const which = Which.parse(new URL(request.url).searchParams.get('which') ?? 'original');
    const file = await clipFile(r, id, which);
    return fileResponse(request, file, /\.(?:wav|bwf)$/i.test(file) ? 'audio/wav' : 'video/mp4');
  });
