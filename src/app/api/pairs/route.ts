import { MakeProxies } from '../../../core/shapes';
import { provePairsOf } from '../../../server/usecases/provePairs';
import { answerTo } from '../answer';

export const POST = (request: Request): Promise<Response> => answerTo(request, MakeProxies, async (r, { clips }) => {
  for (const clip of clips) await provePairsOf(r, clip);
  return { checked: clips.length };
});
