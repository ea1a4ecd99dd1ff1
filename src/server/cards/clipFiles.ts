import { and, eq, inArray } from 'drizzle-orm';
import { chooseFacts, rateOf } from '../../core/facts';
import { MADE_ROLES, mayStand } from '../../core/intake';
import { placeOf } from './onCard';
import { clips, files } from './tables';
import { pairs } from '../proxies/tables';
import type { DiskPath } from '../../core/platform/names';
import { NotFound } from '../platform/errors';
import type { Footage } from '../platform/media/input';
import type { InJob, Ports } from './ports';
import { listRoots, rootById } from '../places';
import { statementsOf } from './statements';

/** The row of a clip's original. */
export async function originalOf(
  runtime: Pick<Ports, 'db'>,
  clip: string,
): Promise<typeof files.$inferSelect> {
  const [row] = await runtime.db
    .select()
    .from(files)
    .where(and(eq(files.clip, clip), eq(files.role, 'original')));
  if (!row) throw new NotFound('The clip has no original.');
  return row;
}

/** The file that shows a clip: its original, or the proxy that counts (the one a person chose, a proven one, a made one). */
export async function clipFile(
  runtime: Pick<InJob, 'db' | 'job'>,
  clip: string,
  which: 'original' | 'proxy',
): Promise<string> {
  const rows = await runtime.db
    .select({ file: files, pair: pairs.state, stands: pairs.stands })
    .from(files)
    .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, runtime.job)))
    .leftJoin(pairs, eq(pairs.file, files.id))
    .where(
      and(
        eq(files.clip, clip),
        inArray(files.role, which === 'original' ? ['original'] : [...MADE_ROLES, 'cameraProxy']),
      ),
    );
  const rank = (r: (typeof rows)[number]) =>
    (r.stands === true ? 0 : 4) + (r.pair === 'proven' ? 0 : 2) + (r.file.role === 'proxy' ? 0 : 1);
  const best = rows
    .filter((r) => which === 'original' || mayStand(r.file.role, r.stands === true))
    .sort((a, b) => rank(a) - rank(b))[0];
  if (!best)
    throw new NotFound(which === 'proxy' ? 'This clip has no proxy.' : 'This clip is no longer in the job.');
  return placeOf(await rootById(runtime, best.file.root), best.file);
}

/** The picture of a clip as one: the file of a clip in one file, else all its segments or stills in order. */
export async function clipFootage(
  runtime: Pick<InJob, 'db' | 'job'>,
  clip: string,
): Promise<Footage | string> {
  const [row] = await runtime.db
    .select({ kind: clips.kind })
    .from(clips)
    .where(and(eq(clips.job, runtime.job), eq(clips.id, clip)));
  if (!row) throw new NotFound('This clip is no longer in the job.');
  const rows = (
    await runtime.db
      .select()
      .from(files)
      .where(and(eq(files.clip, clip), inArray(files.role, ['original', 'segment', 'still'])))
  ).sort((a, b) => a.suffix.localeCompare(b.suffix, 'en', { numeric: true }));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const found = await Promise.all(rows.map((f) => placeOf(roots.get(f.root)!, f)));
  if (found.length === 0) throw new NotFound('The clip has no original.');
  if (found.length === 1) return found[0]!;
  const stated = (await statementsOf(runtime.db, [clip])).get(clip) ?? [];
  return { kind: row.kind, files: found, rate: rateOf(chooseFacts(stated)) };
}

/** The files that a clip's sound is apart in, in the order of their names. */
export async function soundsOf(runtime: Pick<InJob, 'db'>, clip: string): Promise<DiskPath[]> {
  const rows = await runtime.db
    .select()
    .from(files)
    .where(and(eq(files.clip, clip), eq(files.role, 'sound')));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  return Promise.all(
    rows
      .sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }))
      .map((f) => placeOf(roots.get(f.root)!, f)),
  );
}

/**
 * Does something with a file of a clip. Naming may rename it between the look-up and the opening; where that happened
 * the work is tried once more at the new place.
 */
export async function withFile<T>(
  runtime: Pick<InJob, 'db' | 'job'>,
  clip: string,
  which: 'original' | 'proxy',
  work: (file: Footage | string) => Promise<T>,
): Promise<T> {
  const find = () => (which === 'original' ? clipFootage(runtime, clip) : clipFile(runtime, clip, which));
  const file = await find();
  try {
    return await work(file);
  } catch (e) {
    const now = await find();
    if (JSON.stringify(now) === JSON.stringify(file)) throw e;
    return work(now);
  }
}
