import { and, eq } from 'drizzle-orm';
import { chooseFacts, count, rateOf } from '../../core/facts';
import { clips } from '../cards/tables';
import { pairs } from '../proxies/tables';
import type { WorkContext } from '../platform/work/kinds';
import { writeFilmstrip } from './picture';
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
  // A single picture is a strip of one.
  const [rate, frames] =
    row.kind === 'still' ? [{ num: 25, den: 1 }, 1] : [rateOf(facts), count(facts, 'frames')];
  if (!rate || !frames) return;
  const to = filmstripPath(runtime, clip);
  const part = to.replace(/\.jpg$/, '.part.jpg');
  const [proven] = await runtime.db
    .select({ file: pairs.file })
    .from(pairs)
    .where(and(eq(pairs.clip, clip), eq(pairs.state, 'proven')));
  await withFile(runtime, clip, proven ? 'proxy' : 'original', (file) =>
    writeFilmstrip(file, frames, rate, part, signal),
  );
  await rename(part, to);
  await hasFilmstrip(runtime.db, clip);
}
