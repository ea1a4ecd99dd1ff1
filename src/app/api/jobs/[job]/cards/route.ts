import { cardsOf } from '../../../../../server/cards';
import { inJob, type InJobContext } from '../../../answer';

export const dynamic = 'force-dynamic';

/** The job's cards by their ids, cameras and days; with their figures they are on the overview. */
export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, cardsOf);
