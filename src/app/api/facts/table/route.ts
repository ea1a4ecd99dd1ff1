import { FactTableQuery } from '../../../../core/facts';
import { factTable } from '../../../../server/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, FactTableQuery, (r, { fields }) => factTable(r, fields));
