import { LookQuery } from '../../../../../../core/intake';
import { warmThreads } from '../../../../../../server/transfer';
import { warmReaders } from '../../../../../../server/reading';
import { look } from '../../../../../../server/intake';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, LookQuery, (r, { root, path, singles }) => {
    // Whoever looks at a card copies it next. Where the threads do not start, the copy says so.
    void Promise.all([warmThreads(), warmReaders()]).catch(() => undefined);
    return look(r, root, path, singles);
  });
