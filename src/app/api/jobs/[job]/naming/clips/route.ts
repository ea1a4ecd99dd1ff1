import { loadNaming } from '../../../../../../server/naming';
import { inJob, type InJobContext } from '../../../../answer';

/** What the bench makes its plans of, with the fields of facts that are asked for. */
export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) => loadNaming(r, new URL(request.url).searchParams.getAll('field').slice(0, 200)));
