import { logView } from '../../../server/usecases/views';
import { answer } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(logView);
