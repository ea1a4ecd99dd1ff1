import { ChosenClips } from '../../../../../../core/platform/shapes';
import { addWork } from '../../../../../../server/cards';
import { changeTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, ChosenClips, (r, { clips }) => addWork(r, 'read', clips));
