import { and, eq } from 'drizzle-orm';
import { chooseFacts, count, matrixOf, proxyMatrixOf, rateOf } from '../../core/facts';
import { clips, files } from '../cards/tables';
import { isToBeProven } from '../../core/proxies';
import { provePairsOf, varies } from '../proxies';
import { pairs } from '../proxies/tables';
import { joinPath } from '../platform/files/names';
import { freeBytes, LEAST_ROOM } from '../platform/files/onDisk';
import { NoRoom, NotNow, type WorkContext } from '../platform/work/kinds';
import { keepFilmstrip, making, withDecodable, writeFilmstrip } from '../analysis';
import { FOREIGN } from '../reading';
import { Unreadable } from '../platform/errors';
import type { InJob } from './ports';
import { statementsOf, withFile, hasFilmstrip } from '../cards';

/** Makes a clip's filmstrip: from a proven proxy where one is, for it decodes much faster and shows the same frames. */
export async function makeFilmstrip(
  runtime: InJob,
  { subject: clip, signal }: Pick<WorkContext, 'subject' | 'signal'>,
): Promise<void> {
  const [row] = await runtime.db
    .select()
    .from(clips)
    .where(and(eq(clips.id, clip), eq(clips.state, 'read')));
  if (!row) return;
  const stated = (await statementsOf(runtime.db, [clip])).get(clip) ?? [];
  const facts = chooseFacts(stated);
  const foreign = row.notes.includes(FOREIGN);
  // A single picture is a strip of one, as is the preview of what cannot be decoded.
  const [rate, frames] =
    row.kind === 'still' || foreign ? [{ num: 25, den: 1 }, 1] : [rateOf(facts), count(facts, 'frames')];
  if (!rate || !frames) return;
  const part = await making(runtime, 'filmstrips', clip);
  const known = () =>
    runtime.db
      .select({ state: pairs.state, checks: pairs.checks, role: files.role })
      .from(pairs)
      .innerJoin(files, eq(files.id, pairs.file))
      .where(eq(pairs.clip, clip));
  const unproven = (await known()).some((p) => isToBeProven(p.checks));
  const offline = unproven ? (await provePairsOf(runtime, clip)).offline : null;
  if (offline?.ofClip) throw new NotNow(offline.why);
  const proven = (await known()).some(
    (p) => p.state === 'proven' && (p.role === 'proxy' || p.role === 'cameraProxy'),
  );
  const own = proven ? proxyMatrixOf(facts) : matrixOf(facts);
  const matrix = row.kind === 'still' || foreign ? 'auto' : own;
  try {
    await withFile(runtime, clip, proven ? 'proxy' : 'original', (file) =>
      withDecodable(file, (shown) =>
        writeFilmstrip(shown, { frames, rate, varies: varies(stated), matrix }, part, signal),
      ),
    );
  } catch (e) {
    // That it cannot be shown is said of it already.
    if (foreign && e instanceof Unreadable) return;
    // A program that cannot write says so in words of its own, or makes nothing.
    if ((await freeBytes(joinPath(part, '..'))) < LEAST_ROOM) throw new NoRoom();
    throw e;
  }
  await keepFilmstrip(runtime, clip, part);
  await hasFilmstrip(runtime.db, clip);
}
