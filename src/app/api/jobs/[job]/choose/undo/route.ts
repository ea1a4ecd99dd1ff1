import { z } from 'zod';
import { undoChoice } from '../../../../../../server/choose';
import { changeTo, type InJobContext } from '../../../../answer';

const Undo = z.object({ id: z.string().max(64) });

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, Undo, (runtime, { id }) => undoChoice(runtime, id));
