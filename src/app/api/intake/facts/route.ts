import { FileQuery } from '../../../../core/places/shapes';
import { factsOf } from '../../../../server/intake/lookAtFile';
import { answer } from '../../answer';

export const GET = (request: Request): Promise<Response> =>
  answer((r) => factsOf(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams))));
