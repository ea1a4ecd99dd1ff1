import { FileQuery } from '../../../../../../core/places';
import { factsOf } from '../../../../../../server/intake';
import { inJob, type InJobContext } from '../../../../answer';

export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) => factsOf(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams))));
