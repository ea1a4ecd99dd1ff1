import { exportJob } from '../../../../../../server/records';
import { inJob, type InJobContext } from '../../../../answer';
import { bodyOf } from '../../../../fileResponse';

export const dynamic = 'force-dynamic';

/** Everything that is known of the job, as one file. */
export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (r, { job }) => {
    const headers = {
      'content-type': 'application/jsonl',
      'content-disposition': `attachment; filename="${job.replace(/[^\w-]/g, '_')}.job.jsonl"`,
      'cache-control': 'no-store',
    };
    if (request.method === 'HEAD') return new Response(null, { headers });
    const lines = exportJob(r);
    const encoder = new TextEncoder();
    return new Response(
      bodyOf(request, {
        async next() {
          const line = await lines.next();
          return line.done ? null : encoder.encode(line.value);
        },
        close: () => void lines.return(undefined),
      }),
      { headers },
    );
  });
