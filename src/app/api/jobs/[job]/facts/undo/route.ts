import { UndoAsked } from '../../../../../../core/platform/shapes';
import { undoSaid } from '../../../../../../server/facts';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, UndoAsked, (runtime, { id }) => undoSaid(runtime, id));
