import { NewJob } from '../../../core/jobs';
import { beginJob, jobList } from '../../../server/jobs';
import { answer, answerTo } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(jobList);
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, NewJob, (r, job) => beginJob(r, job));
