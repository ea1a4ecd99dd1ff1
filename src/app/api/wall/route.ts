import { wallView } from '../../../server/overview/wall';
import { answer } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(wallView);
