import { and, eq, inArray } from 'drizzle-orm';
import { chooseFacts, rateOf } from '../../core/facts/facts';
import { clips, files, pairs } from '../db/schema';
import { NotFound, Unreadable } from '../errors';
import { resolveIn } from '../files/paths';
import { frameAsJpeg } from '../media/picture';
import type { Runtime } from '../runtime';
import { rootById } from './roots';

/** The file that shows a clip: its original, or the proxy that counts (a proven one first, then a made one). */
export async function mediaFile(runtime: Runtime, clip: string, which: 'original' | 'proxy'): Promise<string> {
  const rows = await runtime.db.select({ file: files, pair: pairs.state }).from(files).leftJoin(pairs, eq(pairs.file, files.id))
    .where(and(eq(files.clip, clip), inArray(files.role, which === 'original' ? ['original'] : ['proxy', 'cameraProxy'])));
  const rank = (r: (typeof rows)[number]) => (r.pair === 'proven' ? 0 : 2) + (r.file.role === 'proxy' ? 0 : 1);
  const best = rows.sort((a, b) => rank(a) - rank(b))[0];
  if (!best) throw new NotFound(which === 'proxy' ? 'This clip has no proxy.' : 'This clip is not in the job any more.');
  return resolveIn(await rootById(runtime, best.file.root), best.file.path);
}

/** One frame of a clip as a JPEG, decoded by the server: for originals that the browser cannot play. */
export async function viewFrame(runtime: Runtime, clip: string, which: 'original' | 'proxy', frame: number, width: number): Promise<Uint8Array> {
  const [row] = await runtime.db.select({ statements: clips.statements }).from(clips).where(eq(clips.id, clip));
  const rate = row ? rateOf(chooseFacts(row.statements)) : null;
  if (!rate) throw new Unreadable('This clip has not been read: no frame can be shown.');
  return frameAsJpeg(await mediaFile(runtime, clip, which), frame, rate, width);
}
