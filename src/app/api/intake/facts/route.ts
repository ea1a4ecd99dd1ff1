import { FileQuery } from '../../../../core/places';
import { factsOf } from '../../../../server/intake';
import { answer } from '../../answer';

export const GET = (request: Request): Promise<Response> =>
  answer((r) => factsOf(r, FileQuery.parse(Object.fromEntries(new URL(request.url).searchParams))));
