import { and, eq } from 'drizzle-orm';
import { chooseFacts, count, rateOf } from '../../core/facts';
import { clips } from '../cards/tables';
import { pairs } from '../proxies/tables';
import type { WorkContext } from '../platform/work/kinds';
import { writeFilmstrip, withDecodable } from './picture';
import { FOREIGN } from '../reading';
import { Unreadable } from '../platform/errors';
import type { InJob, Ports } from './ports';
import { statementsOf, withFile, hasFilmstrip } from '../cards';
import { joinPath } from '../platform/files/names';
import { rename } from '../platform/files/onDisk';

export const filmstripPath = (runtime: Pick<Ports, 'home'>, clip: string): string =>
  joinPath(runtime.home, 'cache', 'filmstrips', `${clip}.jpg`);

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
  const facts = chooseFacts((await statementsOf(runtime.db, [clip])).get(clip) ?? []);
  const foreign = row.notes.includes(FOREIGN);
  // A single picture is a strip of one, as is the preview of what cannot be decoded.
  const [rate, frames] =
    row.kind === 'still' || foreign ? [{ num: 25, den: 1 }, 1] : [rateOf(facts), count(facts, 'frames')];
  if (!rate || !frames) return;
  const to = filmstripPath(runtime, clip);
  const part = to.replace(/\.jpg$/, '.part.jpg');
  const [proven] = await runtime.db
    .select({ file: pairs.file })
    .from(pairs)
    .where(and(eq(pairs.clip, clip), eq(pairs.state, 'proven')));
  try {
    await withFile(runtime, clip, proven ? 'proxy' : 'original', (file) =>
      withDecodable(file, (shown) => writeFilmstrip(shown, frames, rate, part, signal)),
    );
  } catch (e) {
    // That it cannot be shown is said of it already.
    if (foreign && e instanceof Unreadable) return;
    throw e;
  }
  await rename(part, to);
  await hasFilmstrip(runtime.db, clip);
}
