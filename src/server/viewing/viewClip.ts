import { and, eq } from 'drizzle-orm';
import { chooseFacts, rateOf } from '../../core/facts';
import { clips } from '../cards/tables';
import { Unreadable } from '../platform/errors';
import { frameAsJpeg } from './picture';
import type { InJob } from './ports';
import { statementsOf, withFile } from '../cards';

/** One frame of a clip as a JPEG, decoded by the server: for originals that the browser cannot play. */
export async function viewFrame(
  runtime: InJob,
  clip: string,
  which: 'original' | 'proxy',
  frame: number,
  width: number,
): Promise<Uint8Array> {
  const [row] = await runtime.db
    .select({ kind: clips.kind })
    .from(clips)
    .where(and(eq(clips.job, runtime.job), eq(clips.id, clip)));
  const rate =
    row?.kind === 'still'
      ? { num: 25, den: 1 }
      : row
        ? rateOf(chooseFacts((await statementsOf(runtime.db, [clip])).get(clip) ?? []))
        : null;
  if (!rate) throw new Unreadable('This clip has not been read: no frame can be shown.');
  return withFile(runtime, clip, which, (file) => frameAsJpeg(file, frame, rate, width));
}
