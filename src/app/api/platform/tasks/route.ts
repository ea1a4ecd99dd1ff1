import { answer } from '../../answer';

export const dynamic = 'force-dynamic';

/** The long work that is open, but for that of single clips. */
export const GET = (): Promise<Response> => answer((r) => r.queue.views());
