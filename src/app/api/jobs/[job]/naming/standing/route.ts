import { StandingQuery } from '../../../../../../core/naming';
import { namesAt } from '../../../../../../server/naming';
import { inJobTo, type InJobContext } from '../../../../answer';

/** What is on the disk in the folders a plan would fill. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, StandingQuery, (r, { folders }) => namesAt(r, folders));
