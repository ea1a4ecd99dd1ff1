import { FolderQuery } from '../../../core/places/shapes';
import { browse } from '../../../server/intake/browse';
import { answer } from '../answer';

export const GET = (request: Request): Promise<Response> =>
  answer((r) => {
    const { root, path } = FolderQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return browse(r, root, path);
  });
