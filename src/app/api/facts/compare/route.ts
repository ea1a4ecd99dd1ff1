import { z } from 'zod';
import { sideBySide } from '../../../../server/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(
    request,
    z.object({ clips: z.array(z.string()).min(1).max(12, 'at most twelve clips stand side by side') }),
    (r, { clips }) => sideBySide(r, clips),
  );
