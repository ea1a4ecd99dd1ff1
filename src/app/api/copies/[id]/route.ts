import { checkAgain } from '../../../../server/custody';
import { answer } from '../../answer';

/** Begins to check a safe copy again; answers with the task. */
export const POST = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => {
    const { id } = await params;
    return r.tasks.begin('Checking a copy', (task) => checkAgain(r, id, task), id);
  });
