import { folderLevels } from '../../../../../../server/choose';
import { inJob, type InJobContext } from '../../../../answer';

export const GET = (_: Request, context: InJobContext): Promise<Response> => inJob(context, folderLevels);
