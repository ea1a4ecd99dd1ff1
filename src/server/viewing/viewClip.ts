import { and, eq } from 'drizzle-orm';
import { chooseFacts, count, matrixOf, proxyMatrixOf, rateOf } from '../../core/facts';
import { clips } from '../cards/tables';
import { NotFound, Unreadable } from '../platform/errors';
import { withDecodable } from '../analysis';
import { varies } from '../proxies';
import { frameAsJpeg, type Looked } from './frames';
import type { InJob } from './ports';
import { statementsOf, withFile } from '../cards';

/** One frame of a clip as a JPEG, decoded by the server: for originals that the browser cannot play. */
export async function viewFrame(
  runtime: InJob,
  clip: string,
  which: 'original' | 'proxy',
  frame: number,
  width: number,
  signal?: AbortSignal,
): Promise<Uint8Array> {
  const [row] = await runtime.db
    .select({ kind: clips.kind })
    .from(clips)
    .where(and(eq(clips.job, runtime.job), eq(clips.id, clip)));
  if (!row) throw new NotFound('The clip is no longer in the job.');
  const stated = (await statementsOf(runtime.db, [clip])).get(clip) ?? [];
  const facts = chooseFacts(stated);
  const rate = row.kind === 'still' ? { num: 25, den: 1 } : rateOf(facts);
  if (!rate) throw new Unreadable('This clip has not been read, or states no rate: no frame can be shown.');
  const still = row.kind === 'still';
  const about: Looked = {
    frames: count(facts, 'frames'),
    rate,
    varies: varies(stated),
    matrix: which === 'proxy' ? proxyMatrixOf(facts) : matrixOf(facts),
  };
  return withFile(runtime, clip, which, (file) =>
    still
      ? withDecodable(file, (shown) => frameAsJpeg(shown, frame, { ...about, matrix: 'auto' }, width, signal))
      : frameAsJpeg(file, frame, about, width, signal),
  );
}
