import { statedView } from '../../../../server/usecases/facts';
import { answer } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(statedView);
