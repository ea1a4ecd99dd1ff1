import { eq } from 'drizzle-orm';
import pMap from 'p-map';
import type { ChangedClip } from '../../core/naming';
import { shownPath } from '../../core/platform/names';
import { presenceIn } from '../cards';
import { clips, files } from '../cards/tables';
import { isAway, listRoots } from '../places';
import { baseOf } from '../platform/files/paths';
import type { InJob } from './ports';

/** Files that are looked at on the disk at once, and clips that are told of at most. */
const [CONCURRENCY, MOST] = [8, 1000];

/**
 * Clips of which a file is not as it was read, or not where it was: a plan leaves their families where they are. Of what is offline nothing
 * is said.
 */
export async function changedClips(runtime: InJob): Promise<ChangedClip[]> {
  const roots = new Map(
    await Promise.all(
      (await listRoots(runtime)).map(async (root) => {
        const base = (await isAway(runtime, root)) ? null : await baseOf(root).catch(() => null);
        return [root.id, { root, base }] as const;
      }),
    ),
  );
  const rows = await runtime.db
    .select({
      clip: files.clip,
      root: files.root,
      path: files.path,
      onCard: files.onCard,
      size: files.size,
      modified: files.modified,
    })
    .from(files)
    .innerJoin(clips, eq(clips.id, files.clip))
    .where(eq(clips.job, runtime.job))
    .orderBy(files.clip, files.path);
  const found = new Map<string, { text: string; root: string }>();
  await pMap(
    rows,
    async (f) => {
      if (found.size >= MOST || found.has(f.clip)) return;
      const { root, base } = roots.get(f.root) ?? {};
      const now = await presenceIn(base ?? null, root, f);
      const name = shownPath(f.path.slice(f.path.lastIndexOf('/') + 1));
      if (now.is === 'gone')
        found.set(f.clip, { text: `no longer where it was read: ${name}`, root: f.root });
      if (now.is === 'there' && (now.size !== f.size || now.modified !== Math.round(f.modified)))
        found.set(f.clip, { text: `changed since it was read: ${name}`, root: f.root });
    },
    { concurrency: CONCURRENCY },
  );
  // Of a drive that was pulled meanwhile nothing is missing.
  for (const id of new Set([...found.values()].map((f) => f.root)))
    if (await isAway(runtime, roots.get(id)!.root))
      for (const [clip, f] of found) if (f.root === id) found.delete(clip);
  return [...found].map(([clip, { text }]) => ({ clip, text }));
}
