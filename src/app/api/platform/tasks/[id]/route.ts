import { NotFound } from '../../../../../server/platform/errors';
import { answer } from '../../../answer';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** How a task stands, and its outcome once it has ended. */
export const GET = (_: Request, { params }: Context): Promise<Response> =>
  answer(async (r) => {
    const view = r.tasks.view((await params).id);
    if (!view)
      throw new NotFound('This work is not known any more.', { next: 'The logbook says what was done.' });
    return view;
  });

/** Asks a task to stop. */
export const DELETE = (_: Request, { params }: Context): Promise<Response> =>
  answer(async (r) => r.tasks.stop((await params).id));
