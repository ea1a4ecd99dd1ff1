import { and, eq, ne } from 'drizzle-orm';
import path from 'node:path';
import type { DiskPath } from '../../core/platform/names';
import { NotFound } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { namesIn, stat } from '../platform/files/onDisk';
import { type OnVolume, onVolume } from '../platform/files/onVolume';
import { isWithin } from '../platform/files/paths';
import { askVolume } from '../platform/volumes/answering';
import { HOST } from '../platform/host';
import { writeLog } from '../logbook';
import type { Ports } from './ports';
import { listRoots, OWN, type Root } from './list';
import { markAt, newMark, setMark } from './marker';
import { mounts, roots } from './tables';

type Disks = Pick<Ports, 'db' | 'devices' | 'home' | 'who' | 'events' | 'distrustCopies'>;
type Looking = Pick<Ports, 'devices' | 'home'>;

/** Where a root is taken to be while another volume is at its place: nothing is there. */
const awayFrom = (home: string, root: string): string => joinPath(home, 'away', root);

/**
 * What a folder is known by from now on, besides the mark it carries: the volume, for what is plugged in and out, or is on another
 * computer too. A folder of the system's own volume, or of that of the data folder, is known by its place.
 */
export function volumeOfRoot({ devices, home }: Looking, at: DiskPath): Pick<Root, 'volume' | 'within'> {
  const none = { volume: null, within: null };
  const mount = devices.mountOf(at);
  if (mount === path.parse(mount).root || isWithin(home, mount)) return none;
  return { volume: devices.volumeIdOf(at), within: path.relative(mount, at) };
}

const isThere = (folder: string): Promise<boolean> =>
  stat(folder).then(
    (s) => s.isDirectory(),
    () => false,
  );

/** Whether a folder is a root that is looked for: `doubtful` where one sign says so and another does not, or a sign is missing. */
export type Sameness = { is: 'same' | 'other' | 'absent' } | { is: 'doubtful'; why: string };

/** Judges by the volume a folder is on, and by the mark it carries. */
async function samenessOf({ devices, home }: Looking, root: Root, at: string): Promise<Sameness> {
  if (!(await isThere(at))) return { is: 'absent' };
  const own = at === root.path || at === root.added;
  if (root.kind === 'source') return sourceAt(devices, root, at, own);
  const [volume, mark] = [devices.volumeIdOf(at), await markAt(at)];
  const marked = root.mark !== null && mark === root.mark;
  // The data folder is known as a whole, wherever it is.
  if (isWithin(at, home) && (own || marked)) return { is: 'same' };
  if (root.volume !== null && volume !== null) {
    if (volume === root.volume)
      return root.mark === null || mark === null || marked
        ? { is: 'same' }
        : { is: 'doubtful', why: 'it is on the volume, but carries the mark of another place' };
    return marked
      ? {
          is: 'doubtful',
          why: 'it carries the mark, but is on another volume: it may be a copy of the place',
        }
      : { is: 'other' };
  }
  if (marked) return { is: 'same' };
  if (root.mark === null) return { is: at === root.path && root.volume === null ? 'same' : 'other' };
  if (!own) return { is: 'other' };
  if (mark !== null)
    return { is: 'doubtful', why: 'it is where the place was, but carries the mark of another place' };
  // An empty folder is what a drive is mounted at; one of the system's own volume that has something in it is not.
  if ((await namesIn(at)).length === 0) return { is: 'other' };
  if (root.within === null && devices.mountOf(at) === path.parse(at).root) return { is: 'same' };
  return { is: 'doubtful', why: 'it is where the place was, but does not carry its mark' };
}

/** Whether a root is where it is taken to be at this moment, looked at anew: an empty folder its volume was mounted at is not it. */
export const isStanding = async (runtime: Looking, root: Root): Promise<boolean> =>
  (await samenessOf(runtime, root, root.path)).is === 'same';

/** Whether a root is not there at this moment, looked at anew: nothing is, or something else. Where it is in doubt it is there. */
export const isAway = async (runtime: Looking, root: Root): Promise<boolean> =>
  ['absent', 'other'].includes((await samenessOf(runtime, root, root.path)).is);

/** The volume a root is on at this moment; null where it is offline: the folder it was mounted at may be there without it. */
export const onVolumeOf = async (runtime: Looking, root: Root): Promise<OnVolume | null> =>
  (await isAway(runtime, root)) ? null : onVolume(root.path).catch(() => null);

/** The same. Throws NotFound where it is offline. */
export async function requireHere(runtime: Looking, root: Root): Promise<OnVolume> {
  const on = await onVolumeOf(runtime, root);
  if (on) return on;
  throw new NotFound(`“${root.name}” is offline.`, { file: root.path, next: 'Connect its volume.' });
}

/**
 * Of what is only read nothing is marked. A reader holds other cards in turn: at its own place it is whatever is mounted there, and not
 * there where nothing is; elsewhere it is known by its volume.
 */
function sourceAt(devices: Looking['devices'], root: Root, at: string, own: boolean): Sameness {
  const isIt = own
    ? root.within === null || path.relative(devices.mountOf(at), at) === root.within
    : root.volume !== null && devices.volumeIdOf(at) === root.volume;
  return { is: isIt ? 'same' : 'other' };
}

type Candidate = Sameness & { path: string };

/** Where a root of the data folder is in this one; none of any other. */
const inDataFolder = (home: string, { id }: Root): string[] =>
  OWN.filter((o) => o.id === id).map((o) => joinPath(home, o.folder));

/**
 * The folders at which a root may be now, each once, with how it was judged: where it was last, where it was added, in the data folder,
 * and at the same path below each volume. A volume that does not answer has none.
 */
async function candidates(
  { devices, home }: Looking,
  root: Root,
  mounted: readonly string[],
): Promise<Candidate[]> {
  const { within } = root;
  const places = new Set([
    root.path,
    root.added,
    ...inDataFolder(home, root),
    ...(within === null ? [] : mounted.map((m) => joinPath(m, within))),
  ]);
  const deepest = (at: string) =>
    mounted.filter((m) => isWithin(at, m)).reduce((best, m) => (m.length > best.length ? m : best), '');
  const judged = await Promise.all(
    [...places].map((at) =>
      askVolume<(Candidate & { folder: string }) | null>(
        deepest(at),
        async () => {
          const is = await samenessOf({ devices, home }, root, at);
          const { dev, ino } = await stat(at).catch(() => ({ dev: at, ino: '' }));
          return { path: at, folder: `${dev} ${ino}`, ...is };
        },
        null,
      ),
    ),
  );
  // One folder that is mounted at two places is one.
  return [...new Map(judged.flatMap((c) => (c ? [[c.folder, c] as const] : [])).reverse()).values()]
    .reverse()
    .map(({ folder: _, ...c }) => c);
}

/** Where a root is on this computer now, and whether it is there. */
async function findRoot(
  runtime: Looking,
  root: Root,
  mounted: readonly string[],
): Promise<{ at: string; there: boolean }> {
  const all = await candidates(runtime, root, mounted);
  const found = all.filter((c) => c.is === 'same');
  const only = root.kind === 'source' || found.length === 1 ? found[0] : undefined;
  // Of a data folder that was copied, the one it was copied from has the same marks.
  const [inside] = inDataFolder(runtime.home, root);
  const at = found.find((c) => c.path === inside) ?? found.find((c) => c.path === root.path) ?? only;
  if (at) return { at: at.path, there: true };
  // Of a volume and its clone nobody can say which is meant.
  const taken = all.some((c) => c.path === root.path && c.is !== 'absent');
  return { at: taken ? awayFrom(runtime.home, root.id) : root.path, there: false };
}

/** The folders that may be a root, or may be it as well, for a person to say. */
export async function doubtsOf(runtime: Looking, root: Root): Promise<{ path: string; why: string }[]> {
  if (root.kind === 'source') return [];
  const all = await candidates(runtime, root, runtime.devices.mounted());
  const several = all.filter((c) => c.is === 'same').length > 1;
  return all.flatMap((c) => {
    if (c.is === 'doubtful') return [{ path: c.path, why: c.why }];
    if (c.is !== 'same' || !several || c.path === root.path) return [];
    return [{ path: c.path, why: 'it carries the same mark as another folder: one is a copy of the other' }];
  });
}

/** Marks a root that is there and carries no mark, or takes over the mark it carries. Returns the mark; `null` where none can be written. */
export async function markRoot(runtime: Pick<Ports, 'db'>, root: Root): Promise<string | null> {
  const carried = await markAt(root.path);
  if (carried !== null && carried === root.mark) return carried;
  let mark = root.mark;
  if (mark === null && carried !== null) {
    const [other] = await runtime.db
      .select({ id: roots.id })
      .from(roots)
      .where(and(eq(roots.mark, carried), ne(roots.id, root.id)));
    if (!other) mark = carried;
  }
  mark ??= newMark();
  if (carried !== mark && !(await setMark(root.path, mark))) return root.mark;
  if (mark !== root.mark) await runtime.db.update(roots).set({ mark }).where(eq(roots.id, root.id));
  return mark;
}

/** Gives a root a mark of its own, whatever it carries. Returns the mark; `null` where none can be written. */
export async function markAnew({ db }: Pick<Ports, 'db'>, root: Root): Promise<string | null> {
  const mark = newMark();
  if (!(await setMark(root.path, mark))) return null;
  await db.update(roots).set({ mark }).where(eq(roots.id, root.id));
  return mark;
}

/** Learns of a root that is there by what it is known: one of before marks and volumes were kept, or whose mark was removed. */
async function learn(runtime: Disks, root: Root): Promise<void> {
  const known = volumeOfRoot(runtime, root.path);
  if (
    root.volume === null &&
    known.within !== null &&
    (known.volume !== null || known.within !== root.within)
  )
    await runtime.db.update(roots).set(known).where(eq(roots.id, root.id));
  if (root.kind === 'source') return;
  // What is empty may be the folder a drive is mounted at.
  if (root.mark !== null || isWithin(root.path, runtime.home) || (await namesIn(root.path)).length > 0)
    await markRoot(runtime, root);
}

/** Remembers where a root is on this computer. */
export const keepPlace = (db: Pick<Ports['db'], 'insert'>, root: string, at: string) =>
  db
    .insert(mounts)
    .values({ host: HOST, root, path: at })
    .onConflictDoUpdate({ target: [mounts.host, mounts.root], set: { path: at } });

/**
 * Looks where the roots are on this computer: one whose drive is mounted elsewhere than before is found by its volume or its mark, and
 * one at whose place another volume is (another drive, or the empty folder a drive is mounted at) is not there. Returns whether any moved.
 */
export async function settleMounts(runtime: Disks): Promise<boolean> {
  const { db, devices } = runtime;
  const mounted = devices.mounted();
  const list = await listRoots(runtime);
  const kept = new Map(
    (await db.select().from(mounts).where(eq(mounts.host, HOST))).map((m) => [m.root, m.path]),
  );
  let moved = false;
  for (const root of list) {
    const { at, there } = await findRoot(runtime, root, mounted);
    if (there) await learn(runtime, { ...root, path: at });
    if (kept.get(root.id) === at) continue;
    // Found elsewhere by its mark alone, it may be a copy of the folder: what is in it is read before it proves anything.
    const byMark = root.volume === null || devices.volumeIdOf(at) === null;
    if (there && at !== root.path && at !== root.added && byMark)
      await runtime.distrustCopies(root.id, devices.volumeIdOf(at));
    await keepPlace(db, root.id, at);
    if (at === root.path) continue;
    moved = true;
    // Cards come and go all day.
    if (root.kind === 'source') continue;
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
