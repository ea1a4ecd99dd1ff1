import { SearchFile } from '../../../../../../core/choose';
import { exportSearches, takeSearches } from '../../../../../../server/choose';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

export const GET = (_: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (runtime) =>
    Response.json(await exportSearches(runtime), {
      headers: { 'content-disposition': 'attachment; filename="searches.json"' },
    }),
  );

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, SearchFile, takeSearches);
