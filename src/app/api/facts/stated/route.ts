import { statedView } from '../../../../server/facts';
import { answer } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(statedView);
