import { FileQuery } from '../../../../core/shapes';
import { factsOf } from '../../../../server/usecases/lookAtFile';
import { answer } from '../../answer';

export const GET = (request: Request): Promise<Response> =>
  answer((r) => factsOf(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams))));
