import { LookQuery } from '../../../../core/intake/shapes';
import { warmThreads } from '../../../../server/transfer/pool';
import { warmReaders } from '../../../../server/reading/readPool';
import { look } from '../../../../server/intake/look';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, LookQuery, (r, { root, path, singles }) => {
    // Whoever looks at a card copies it next. Where the threads do not start, the copy says so.
    void Promise.all([warmThreads(), warmReaders()]).catch(() => undefined);
    return look(r, root, path, singles);
  });
