import { openSuspicions } from '../../../../server/facts';
import { answer } from '../../answer';

export const dynamic = 'force-dynamic';

/** How many clocks look wrong and wait for a decision. */
export const GET = (): Promise<Response> =>
  answer(async (r) => ({ count: (await openSuspicions(r)).length }));
