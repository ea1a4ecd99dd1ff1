import { eq } from 'drizzle-orm';
import path from 'node:path';
import { joinPath } from '../platform/files/names';
import { stat } from '../platform/files/onDisk';
import { isWithin } from '../platform/files/paths';
import { HOST } from '../platform/host';
import { writeLog } from '../logbook';
import type { Ports } from './ports';
import { listRoots, type Root } from './list';
import { mounts, roots } from './tables';

type Disks = Pick<Ports, 'db' | 'devices' | 'home' | 'who' | 'events'>;

/** Where a root is taken to be while another volume is at its place: nothing is there. */
const awayFrom = (home: string, root: string): string => joinPath(home, 'away', root);

/**
 * The volume a folder is known by from now on: what is plugged in and out, or is on another computer too. A folder of the system's
 * own volume, or of that of the data folder, is known by its place, and so is a reader, which holds other cards in turn.
 */
export function volumeOfRoot(
  { devices, home }: Pick<Ports, 'devices' | 'home'>,
  { kind, path: at }: Pick<Root, 'kind' | 'path'>,
): Pick<Root, 'volume' | 'within'> {
  const none = { volume: null, within: null };
  if (kind === 'source') return none;
  const mount = devices.mountOf(at);
  if (mount === path.parse(mount).root || isWithin(home, mount)) return none;
  const volume = devices.volumeIdOf(at);
  return volume === null ? none : { volume, within: path.relative(mount, at) };
}

const isThere = (folder: string): Promise<boolean> =>
  stat(folder).then(
    (s) => s.isDirectory(),
    () => false,
  );

/** Where a root that is known by its volume is on this computer now. */
async function findRoot(
  { devices, home }: Pick<Ports, 'devices' | 'home'>,
  root: Root,
  mounted: ReadonlyMap<string, readonly string[]>,
): Promise<string> {
  const here = (await isThere(root.path)) ? devices.volumeIdOf(root.path) : null;
  if (here === root.volume) return root.path;
  // Of a volume and its clone nobody can say which is meant.
  const [only, ...more] = mounted.get(root.volume!) ?? [];
  if (only !== undefined && more.length === 0) {
    const at = joinPath(only, root.within!);
    if (await isThere(at)) return at;
  }
  return here === null ? root.path : awayFrom(home, root.id);
}

/**
 * Looks where the roots are on this computer: one whose drive is mounted elsewhere than before is found by its volume, and one at
 * whose place another volume is (another drive, or the empty folder a drive is mounted at) is not there. Returns whether any moved.
 */
export async function settleMounts(runtime: Disks): Promise<boolean> {
  const { db, devices } = runtime;
  const mounted = new Map<string, string[]>();
  for (const at of devices.mounted()) {
    const id = devices.volumeIdOf(at);
    if (id !== null) mounted.set(id, [...(mounted.get(id) ?? []), at]);
  }
  const list = await listRoots(runtime);
  const kept = new Map(
    (await db.select().from(mounts).where(eq(mounts.host, HOST))).map((m) => [m.root, m.path]),
  );
  let moved = false;
  for (const root of list) {
    if (root.volume === null && (await isThere(root.path))) {
      Object.assign(root, volumeOfRoot(runtime, root));
      if (root.volume !== null)
        await db.update(roots).set({ volume: root.volume, within: root.within }).where(eq(roots.id, root.id));
    }
    const at = root.volume === null ? root.path : await findRoot(runtime, root, mounted);
    if (kept.get(root.id) === at) continue;
    await db
      .insert(mounts)
      .values({ host: HOST, root: root.id, path: at })
      .onConflictDoUpdate({ target: [mounts.host, mounts.root], set: { path: at } });
    if (at === root.path) continue;
    moved = true;
    const away = at === awayFrom(runtime.home, root.id);
    await writeLog(
      { db, who: runtime.who, job: null },
      'root',
      away
        ? `Another volume stands at ${root.path}: “${root.name}” is offline`
        : `Found “${root.name}” at ${at}`,
    );
  }
  if (moved) runtime.events.changed('job', 'log', 'copies', 'cards');
  return moved;
}
