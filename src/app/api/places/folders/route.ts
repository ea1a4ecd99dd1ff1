import * as z from 'zod';
import { FullPath, NewFolder } from '../../../../core/places';
import { newFolder, outsideFolder } from '../../../../server/places';
import { answer, answerTo } from '../../answer';

const Query = z.object({ path: FullPath.optional() });

export const GET = (request: Request): Promise<Response> =>
  answer((r) => outsideFolder(r, Query.parse(Object.fromEntries(new URL(request.url).searchParams)).path));

export const POST = (request: Request): Promise<Response> => answerTo(request, NewFolder, newFolder);
