import { ChosenClips } from '../../../../../../core/platform/shapes';
import { readAgain } from '../../../../../../server/intake';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ChosenClips, (r, { clips }) => readAgain(r, clips));
