import { ASKED } from '../../../../../core/platform/shapes';
import { NotFound } from '../../../../../server/platform/errors';
import { answer } from '../../../answer';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** The state of a task, and its outcome once it has ended. */
export const GET = (_: Request, { params }: Context): Promise<Response> =>
  answer(async (r) => {
    const view = await r.queue.view((await params).id);
    if (!view) throw new NotFound('There is no such task.', { next: 'The logbook says what was done.' });
    return view;
  });

/** Asks a task to stop; what has a way of its own to be stopped, as a copying, is left as it is. */
export const DELETE = (_: Request, { params }: Context): Promise<Response> =>
  answer(async (r) => {
    const view = await r.queue.view((await params).id);
    return view && ASKED.some((k) => k === view.kind) ? r.queue.cancel([view.id]) : 0;
  });
