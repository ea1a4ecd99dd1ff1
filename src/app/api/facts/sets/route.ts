import * as z from 'zod';
import { FieldSet, FieldSetFile } from '../../../../core/facts';
import { fieldSetsView, importFieldSets, saveFieldSet } from '../../../../server/facts';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(fieldSetsView);
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, z.union([FieldSetFile, FieldSet]), (r, body) =>
    'sets' in body ? importFieldSets(r, body) : saveFieldSet(r, body),
  );
