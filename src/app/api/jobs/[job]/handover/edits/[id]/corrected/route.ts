import { correctedEdit } from '../../../../../../../../server/handover';
import { inJob, type InJobContext } from '../../../../../../answer';
import { timelineResponse } from '../../../../../../timelineResponse';

export const GET = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, (runtime, { id }) =>
    timelineResponse(request, (format) => correctedEdit(runtime, id, format)),
  );
