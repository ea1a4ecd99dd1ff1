import * as z from 'zod';
import { correctedEdit } from '../../../../../../../../server/handover';
import { inJob, type InJobContext } from '../../../../../../answer';
import { timelineResponse } from '../../../../../../timelineResponse';

const Track = z.coerce.number().int().min(0).optional();

export const GET = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, (runtime, { id }) =>
    timelineResponse(request, (format) => {
      const track = Track.parse(new URL(request.url).searchParams.get('track') ?? undefined);
      return correctedEdit(runtime, id, format, track === undefined ? {} : { track });
    }),
  );
