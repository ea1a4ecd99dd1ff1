import { JobSettings, NewJob } from '../../../core/jobs/shapes';
import { changeSettings } from '../../../server/facts/settings';
import { beginJob, jobView } from '../../../server/jobs/job';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(jobView);
export const POST = (request: Request): Promise<Response> => answerTo(request, NewJob, beginJob);
export const PATCH = (request: Request): Promise<Response> => answerTo(request, JobSettings, changeSettings);
