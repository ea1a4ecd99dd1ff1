import * as z from 'zod';
import { TakeParts } from '../../../../../../core/templates';
import { previewParts, templateById, takeParts } from '../../../../../../server/templates';
import { changeTo, inJob, type InJobContext } from '../../../../answer';

const Query = z.object({ template: z.string().min(1).max(120) });

export const GET = (request: Request, context: InJobContext): Promise<Response> =>
  inJob(context, (r) =>
    previewParts(r, Query.parse(Object.fromEntries(new URL(request.url).searchParams)).template),
  );

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  changeTo(request, context, TakeParts, async (r, { template, parts }) =>
    takeParts(r, await templateById(r, template), parts),
  );
