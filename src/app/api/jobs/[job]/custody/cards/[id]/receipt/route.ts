import { receiptPage } from '../../../../../../../../core/custody';
import { receipt } from '../../../../../../../../server/custody';
import { inJob, type InJobContext } from '../../../../../../answer';

export const dynamic = 'force-dynamic';

/** The receipt as a page to print, or as JSON with `?as=json`. */
export const GET = (request: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  inJob(context, async (r, { id }) => {
    const made = await receipt(r, id);
    if (new URL(request.url).searchParams.get('as') !== 'json') {
      return new Response(receiptPage(made), { headers: { 'content-type': 'text/html; charset=utf-8' } });
    }
    return Response.json(made, {
      headers: { 'content-disposition': `attachment; filename="${id.replace(/[^\w-]/g, '_')}-receipt.json"` },
    });
  });
