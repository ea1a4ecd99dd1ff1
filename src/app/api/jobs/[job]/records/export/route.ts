import { exportJob } from '../../../../../../server/records';
import { rm } from '../../../../../../server/platform/files/onDisk';
import { inJob, type InJobContext } from '../../../../answer';
import { fileResponse } from '../../../../fileResponse';

export const dynamic = 'force-dynamic';

/** Everything that is known of the job, as one file. */
export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, async (r, { job }) => {
    const file = await exportJob(r);
    try {
      const response = await fileResponse(request, file, 'application/jsonl');
      response.headers.set(
        'content-disposition',
        `attachment; filename="${job.replace(/[^\w-]/g, '_')}.job.jsonl"`,
      );
      return response;
    } finally {
      // It is open while it is sent.
      await rm(file, { force: true });
    }
  });
