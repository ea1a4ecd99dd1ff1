import { undoPlan } from '../../../../../server/naming';
import { answer } from '../../../answer';

/** Begins to take a plan back; answers with the task. */
export const POST = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => {
    const { id } = await params;
    return r.tasks.begin('Taking names back', (task) => undoPlan(r, id, task));
  });
