import * as z from 'zod';
import { FullPath } from '../../../../../../core/places';
import { glance } from '../../../../../../server/intake';
import { inJob, type InJobContext } from '../../../../answer';

const Query = z.object({ path: FullPath });

export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) => glance(r, Query.parse(Object.fromEntries(new URL(request.url).searchParams)).path));
