import { UndoAsked } from '../../../../../../core/platform/shapes';
import { undoChoice } from '../../../../../../server/choose';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, UndoAsked, (runtime, { id }) => undoChoice(runtime, id));
