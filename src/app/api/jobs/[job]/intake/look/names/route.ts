import { LookQuery } from '../../../../../../../core/intake';
import { firstLook } from '../../../../../../../server/intake';
import { inJobTo, type InJobContext } from '../../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, LookQuery, (r, { root, path, singles }) => firstLook(r, root, path, singles));
