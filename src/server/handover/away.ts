import pMap from 'p-map';
import { shownPath } from '../../core/platform/names';
import { placeOf } from '../cards';
import type { files } from '../cards/tables';
import { listRoots, type Root } from '../places';
import { unreadInWords } from '../platform/files/faults';
import { modifiedOf } from '../platform/files/move';
import type { InJob } from './ports';

type Looked = Pick<typeof files.$inferSelect, 'root' | 'path' | 'size' | 'modified' | 'onCard'>;

/** Files looked at at once. */
const AT_ONCE = 16;

/** Looks for files: why each cannot be had now, in their order; null for what is there. Its root is away, it is gone, or is not as it was read. */
export async function whyAway(runtime: InJob, all: readonly Looked[]): Promise<(string | null)[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const absent = new Map<string, boolean>();
  for (const id of new Set(all.map((f) => f.root)))
    absent.set(id, !roots.has(id) || (await runtime.devices.volumeOf(roots.get(id)!.path)) === null);
  return pMap(
    all,
    async (f) =>
      absent.get(f.root)
        ? `on ${roots.get(f.root)?.name ?? 'a place that was removed'}, which is not connected`
        : faultOf(roots.get(f.root)!, f),
    { concurrency: AT_ONCE },
  );
}

async function faultOf(root: Root, f: Looked): Promise<string | null> {
  try {
    const now = await modifiedOf(await placeOf(root, f));
    return now.size === f.size && now.modified === f.modified
      ? null
      : `${shownPath(f.path)} is not as it was when it was read: look for changes on its card`;
  } catch (e) {
    return unreadInWords(shownPath(f.path), e);
  }
}
