import { FactTableQuery } from '../../../../core/facts/shapes';
import { factTable } from '../../../../server/facts/facts';
import { answerTo } from '../../answer';

export const POST = (request: Request): Promise<Response> =>
  answerTo(request, FactTableQuery, (r, { fields }) => factTable(r, fields));
