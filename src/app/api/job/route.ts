import { JobSettings, NewJob } from '../../../core/shapes';
import { beginJob, jobView, saveSettings } from '../../../server/usecases/job';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(jobView);
export const POST = (request: Request): Promise<Response> => answerTo(request, NewJob, beginJob);
export const PATCH = (request: Request): Promise<Response> => answerTo(request, JobSettings, saveSettings);
