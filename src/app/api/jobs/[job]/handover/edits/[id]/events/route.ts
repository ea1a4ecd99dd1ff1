import { EventsQuery } from '../../../../../../../../core/handover';
import { editEvents } from '../../../../../../../../server/handover';
import { inJobTo, type InJobContext } from '../../../../../../answer';

export const POST = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJobTo(request, context, EventsQuery, (runtime, query, { id }) => editEvents(runtime, id, query));
