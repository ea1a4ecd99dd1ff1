import { MovePlace } from '../../../../../../../core/places';
import { planMove } from '../../../../../../../server/places';
import { inJob, type InJobContext, inJobTo } from '../../../../../answer';

type Context = InJobContext<{ id: string }>;

export const dynamic = 'force-dynamic';

/** What moving a place would do. */
export const GET = (request: Request, context: Context): Promise<Response> =>
  inJob(context, (r, { id }) =>
    planMove(r, id, MovePlace.parse(Object.fromEntries(new URL(request.url).searchParams)).to),
  );
/** Begins to move it; answers with the task. */
export const POST = (request: Request, context: Context): Promise<Response> =>
  inJobTo(request, context, MovePlace, (r, wanted, { id }) =>
    r.queue.begin({ kind: 'movePlace', job: r.job, subject: id, wanted, needs: [`root ${id}`] }),
  );
