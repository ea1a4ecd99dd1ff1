import { FileQuery } from '../../../../../../core/places';
import { playable } from '../../../../../../server/intake';
import { inJob, type InJobContext } from '../../../../answer';
import { fileResponse, streamResponse } from '../../../../fileResponse';

/** A file of a card for the browser's player: as it is where the browser can play it, else made light while it plays. */
export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (r) => {
    const found = await playable(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams)));
    if ('file' in found) return fileResponse(request, found.file, found.type);
    return streamResponse(request, found.preview, 'video/mp4');
  });
