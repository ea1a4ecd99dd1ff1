import { RangesQuery } from '../../../../../../core/choose';
import { findRanges } from '../../../../../../server/choose';
import { inJobTo, type InJobContext } from '../../../../answer';

export const POST = (request: Request, context: InJobContext): Promise<Response> =>
  inJobTo(request, context, RangesQuery, findRanges);
