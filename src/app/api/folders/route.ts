import { FolderQuery } from '../../../core/places';
import { browse } from '../../../server/intake';
import { answer } from '../answer';

export const GET = (request: Request): Promise<Response> =>
  answer((r) => {
    const { root, path } = FolderQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
    return browse(r, root, path);
  });
