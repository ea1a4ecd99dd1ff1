import { renameList } from '../../../../../../../../server/naming';
import { inJob, type InJobContext } from '../../../../../../answer';

/** The list of what a plan renamed, as CSV or as a plain report. */
export const GET = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    const csv = new URL(request.url).searchParams.get('as') !== 'text';
    const { name, text } = await renameList(r, id, csv ? 'csv' : 'text');
    return new Response(text, {
      headers: {
        'content-type': `text/${csv ? 'csv' : 'plain'}; charset=utf-8`,
        'content-disposition': `attachment; filename="${name}"`,
      },
    });
  });
