import { templatesView } from '../../../server/templates';
import { answer } from '../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(templatesView);
