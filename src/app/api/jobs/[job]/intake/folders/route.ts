import { FolderQuery } from '../../../../../../core/places';
import { browse } from '../../../../../../server/intake';
import { inJob, type InJobContext } from '../../../../answer';

export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) => {
    const { root, path } = FolderQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return browse(r, root, path);
  });
