import { EditRate } from '../../../../../../../core/handover';
import { dropEdit, editView, setEditRate } from '../../../../../../../server/handover';
import { change, changeTo, inJob, type InJobContext } from '../../../../../answer';

type Context = InJobContext<{ id: string }>;

export const GET = (_: Request, context: Context): Promise<Response> =>
  inJob(context, (runtime, { id }) => editView(runtime, id));
export const PATCH = (request: Request, context: Context): Promise<Response> =>
  changeTo(request, context, EditRate, (runtime, { rate }, { id }) => setEditRate(runtime, id, rate));
export const DELETE = (_: Request, context: Context): Promise<Response> =>
  change(context, (runtime, { id }) => dropEdit(runtime, id));
