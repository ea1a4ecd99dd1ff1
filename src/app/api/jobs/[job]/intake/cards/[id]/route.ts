import { forgetCard } from '../../../../../../../server/intake';
import { change, type InJobContext } from '../../../../../answer';

export const DELETE = (_: Request, context: InJobContext<{ id: string }>): Promise<Response> =>
  change(context, (r, { id }) => forgetCard(r, id));
