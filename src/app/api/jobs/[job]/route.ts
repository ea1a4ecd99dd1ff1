import { JobAction, JobSettings } from '../../../../core/jobs';
import { changeSettings } from '../../../../server/facts';
import { jobView, putAway } from '../../../../server/jobs';
import { removeJob } from '../../../../server/removal';
import { changeTo, inJob, type InJobContext, inJobTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, jobView);
export const PATCH = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, JobSettings, changeSettings);
/** Puts the job away, or takes it up again. */
export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, JobAction, (r, { action }) => putAway(r, action === 'putAway'));
/** Removes the job; no file is touched. */
export const DELETE = (_: Request, context: InJobContext): Promise<Response> => inJob(context, removeJob);
