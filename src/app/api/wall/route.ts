import { wallView } from '../../../server/overview';
import { answer } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(wallView);
