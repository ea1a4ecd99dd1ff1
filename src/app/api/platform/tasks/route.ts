import { answer } from '../../answer';

export const dynamic = 'force-dynamic';

/** The tasks that run now. */
export const GET = (): Promise<Response> => answer(async (r) => r.tasks.running());
