import { FactTableQuery } from '../../../../../../core/facts';
import { factTable } from '../../../../../../server/facts';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, FactTableQuery, (r, { fields }) => factTable(r, fields));
