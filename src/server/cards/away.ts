import { eq } from 'drizzle-orm';
import { isMade } from '../../core/intake';
import { among } from '../platform/db/among';
import { NotFound } from '../platform/errors';
import { isAway, listRoots, type Root } from '../places';
import { placeOf } from './onCard';
import type { Reaching } from './ports';
import { clips, files } from './tables';

/** Milliseconds that a system may take to unmount a volume that was pulled, while reading from it fails already. */
const UNMOUNTING = 1500;

/**
 * Of clips those of which a file is out of reach: its place is offline, or its card is not in its reader; with what is missing, in a
 * sentence. `also`: places that must be there, too. After something `failed` a volume that can be pulled is looked at twice.
 */
export async function awayOf(
  runtime: Reaching,
  clipIds: readonly string[],
  failed = false,
  also: readonly string[] = [],
): Promise<Map<string, string>> {
  const rows = (
    await runtime.db
      .select({ file: files, card: clips.card })
      .from(files)
      .innerJoin(clips, eq(clips.id, files.clip))
      .where(among(files.clip, clipIds))
  ).filter(({ file }) => !isMade(file.role));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const needed = [...new Set([...rows.map((r) => r.file.root), ...also])].flatMap(
    (id) => roots.get(id) ?? [],
  );
  const look = async (): Promise<Map<string, string>> => {
    const missing = new Map<string, string>();
    for (const root of needed)
      if (await isAway(runtime, root)) missing.set(root.id, `“${root.name}” is offline.`);
    const wanted = also.map((id) => missing.get(id)).find((why) => why !== undefined);
    const away = new Map(wanted === undefined ? [] : clipIds.map((id) => [id, wanted]));
    for (const { file, card } of rows) {
      const root = roots.get(file.root);
      const why = missing.get(file.root) ?? (root ? await notInReader(root, file, card) : undefined);
      if (file.clip !== null && why !== undefined) away.set(file.clip, why);
    }
    return away;
  };
  const away = await look();
  const canBePulled = needed.some((r) => r.within !== null);
  if (!failed || away.size > 0 || !canBePulled) return away;
  await new Promise((r) => setTimeout(r, UNMOUNTING));
  return look();
}

/** Why a file that stands on its card only cannot be read: another card is in the reader, or none. */
async function notInReader(
  root: Root,
  file: typeof files.$inferSelect,
  card: string,
): Promise<string | undefined> {
  if (file.onCard === null) return undefined;
  try {
    await placeOf(root, file);
    return undefined;
  } catch (e) {
    return e instanceof NotFound ? `Card ${card} is not in “${root.name}”.` : undefined;
  }
}
