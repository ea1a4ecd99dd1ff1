import * as z from 'zod';
import { FullPath } from '../../../../core/places';
import { NewFromCopy } from '../../../../core/records';
import { beginFromCopy, copiedJobs } from '../../../../server/records';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

const Query = z.object({ folder: FullPath });

export const GET = (request: Request): Promise<Response> =>
  answer(() => copiedJobs(Query.parse(Object.fromEntries(new URL(request.url).searchParams)).folder));
export const POST = (request: Request): Promise<Response> => answerTo(request, NewFromCopy, beginFromCopy);
