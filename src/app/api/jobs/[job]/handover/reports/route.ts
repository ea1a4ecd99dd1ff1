import * as z from 'zod';
import { ReportRequest } from '../../../../../../core/handover';
import { makeReport } from '../../../../../../server/handover';
import { inJob, type InJobContext } from '../../../../answer';
import { savedAs } from '../../../../savedAs';

export const dynamic = 'force-dynamic';

const Wanted = z
  .string()
  .max(8000)
  .transform((text, context): unknown => {
    try {
      return JSON.parse(text);
    } catch {
      context.addIssue('the report that is wanted is not JSON');
      return z.NEVER;
    }
  })
  .pipe(ReportRequest);
const Query = z.object({ report: Wanted, as: z.enum(['html', 'pdf']), save: z.literal('').optional() });

/** A report as a page or a PDF: to be looked at, or with `save` to be kept. What is wanted is JSON. */
export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (runtime) => {
    const { report, as, save } = Query.parse(Object.fromEntries(new URL(request.url).searchParams));
    const { name, type, body } = await makeReport(runtime, report, as);
    return new Response(typeof body === 'string' ? body : new Uint8Array(body), {
      headers: {
        'content-type': type,
        'cache-control': 'no-store',
        ...(save === undefined ? {} : { 'content-disposition': savedAs(name, `report.${as}`) }),
      },
    });
  });
