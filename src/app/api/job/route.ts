import { JobSettings, NewJob } from '../../../core/jobs';
import { changeSettings } from '../../../server/facts';
import { beginJob, jobView } from '../../../server/jobs';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(jobView);
export const POST = (request: Request): Promise<Response> => answerTo(request, NewJob, beginJob);
export const PATCH = (request: Request): Promise<Response> => answerTo(request, JobSettings, changeSettings);
