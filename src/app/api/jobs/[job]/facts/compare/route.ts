import * as z from 'zod';
import { sideBySide } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

const Compared = z.object({
  clips: z.array(z.string()).min(1).max(12, 'at most twelve clips stand side by side'),
});

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, Compared, (r, { clips }) => sideBySide(r, clips));
