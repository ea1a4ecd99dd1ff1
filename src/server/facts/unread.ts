import { and, asc, eq } from 'drizzle-orm';
import type { UnreadClip } from '../../core/facts/shapes';
import { clipName } from '../cards';
import { clips, files } from '../cards/tables';
import type { InJob } from './ports';

/** Clips whose reading failed, by card and name, each with the reason. */
export async function unreadClips(runtime: InJob): Promise<UnreadClip[]> {
  const rows = await runtime.db
    .select({
      clip: clips.id,
      card: clips.card,
      original: clips.original,
      fault: clips.fault,
      path: files.path,
      suffix: files.suffix,
    })
    .from(clips)
    .leftJoin(files, and(eq(files.clip, clips.id), eq(files.role, 'original')))
    .where(and(eq(clips.job, runtime.job), eq(clips.state, 'unreadable')))
    .orderBy(asc(clips.card), asc(clips.original));
  return rows.map(({ path, suffix, original, fault, ...row }) => ({
    ...row,
    name: clipName({ path, suffix }, original),
    why: fault ?? 'no reason was given',
  }));
}
