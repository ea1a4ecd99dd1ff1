import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { eq, sql } from 'drizzle-orm';
import type { NewRoot, PlaceView, RootChange, RootKind, RootView } from '../../core/places';
import { isSystemFolder } from '../../core/platform/places';
import { cards, clips, files } from '../cards/tables';
import { offloads } from '../offload/tables';
import { packages } from '../handover/tables';
import { physicalCards, safeCopies } from '../custody/tables';
import { roots } from './tables';
import { isOwn, listRoots, OWN, type Root, rootById } from './list';
import { markAt, newMark, setMark } from './marker';
import { doubtsOf, keepPlace, markAnew, markRoot, volumeOfRoot } from './mounts';
import { steps } from '../naming/tables';
import { watches } from '../watch/tables';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { Ports } from './ports';
import { writeLog } from '../logbook';
import { joinPath } from '../platform/files/names';
import { mkdir, realpath, stat } from '../platform/files/onDisk';
import { isWithin } from '../platform/files/paths';

/** Makes the roots a new data folder starts with, inside it. */
export async function ensureRoots(runtime: Pick<Ports, 'db' | 'home'>): Promise<void> {
  const have = await runtime.db.select().from(roots);
  for (const { id, kind, name, folder } of OWN) {
    if (have.some((r) => r.id === id)) continue;
    const where = joinPath(runtime.home, folder);
    await mkdir(where);
    await runtime.db.insert(roots).values({ id, kind, name, path: await realpath(where) });
  }
}

/** Only the roots in which clips may be moved; a source is read and copied from. */
export const isMovable = (kind: RootKind): boolean => kind === 'shelf' || kind === 'proxies';

export async function rootViews(runtime: Pick<Ports, 'db' | 'devices'>): Promise<RootView[]> {
  const list = await listRoots(runtime);
  return Promise.all(
    list.map(async (r): Promise<RootView> => {
      const volume = await runtime.devices.volumeOf(r.path);
      return {
        id: r.id,
        kind: r.kind,
        name: r.name,
        path: volume === null ? r.added : r.path,
        present: volume !== null,
        free: volume?.free ?? null,
        total: volume?.total ?? null,
        volume: volume?.id ?? null,
        volumeName: volume?.name ?? null,
        disk: volume ? runtime.devices.diskOf(r.path) : null,
      };
    }),
  );
}

/** What a root is for, in words. */
const PART_WORDS: Readonly<Record<RootKind, string>> = {
  source: 'read only',
  safe: 'safe copies',
  shelf: 'to name and sort in',
  proxies: 'proxies',
  handover: 'hand-over',
};

/** The roots as the screen of places has them. */
export async function placeViews(runtime: Pick<Ports, 'db' | 'devices' | 'home'>): Promise<PlaceView[]> {
  const list = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  return Promise.all(
    (await rootViews(runtime)).map(async (view): Promise<PlaceView> => {
      const root = list.get(view.id)!;
      return {
        ...view,
        use: await useOf(runtime, view.id),
        own: isOwn(view.id),
        knownBy: root.mark !== null ? 'mark' : root.volume !== null ? 'volume' : 'place',
        doubts: await doubtsOf(runtime, root),
      };
    }),
  );
}

/**
 * Adds a folder of the person's as a root. One inside another, or around another, is refused: a file must be in one
 * root only. `isCopy` where the person says that it was copied from another: the mark it carries is that one's.
 */
export const addRoot = (runtime: Ports, wanted: NewRoot, isCopy = false): Promise<Root> =>
  runtime.exclusively(() => addOne(runtime, wanted, isCopy));

/** A folder a person names, by its real path. Throws where it is none, or cannot be used. */
export async function folderFor(
  runtime: Pick<Ports, 'db' | 'home'>,
  said: string,
  besides?: string,
): Promise<string> {
  if (!path.isAbsolute(said)) throw new Refused('Give the full path of the folder.', { file: said });
  const real = await realpath(said).catch(() => {
    throw new NotFound(`There is no folder ${said}.`, {
      file: said,
      next: 'Check the spelling, or connect the volume.',
    });
  });
  if (!(await stat(real)).isDirectory())
    throw new Refused(`${said} is a file, not a folder.`, { file: said });
  const against = await whyNot(runtime, real, besides);
  if (against) throw new Refused(`${said} ${against.why}.`, { file: said, next: against.next });
  return real;
}

async function addOne(runtime: Ports, wanted: NewRoot, isCopy: boolean): Promise<Root> {
  const real = await folderFor(runtime, wanted.path);
  const row = {
    id: randomUUID(),
    kind: wanted.kind,
    name: path.basename(real) || real,
    path: real,
    mark: null,
    ...volumeOfRoot(runtime, real),
  };
  if (wanted.kind !== 'source' && !isCopy) await refuseMoved(runtime, real);
  await runtime.db.insert(roots).values(row);
  const root = { ...row, added: real };
  const mark = wanted.kind === 'source' ? null : await (isCopy ? markAnew : markRoot)(runtime, root);
  await writeLog(
    { db: runtime.db, who: runtime.who, job: null },
    'root',
    `Added the place ${real}: ${PART_WORDS[wanted.kind]}`,
  );
  runtime.events.changed('job', 'log', 'places');
  return { ...root, mark };
}

/** Refuses a folder that carries the mark of a root that is offline: it most likely is that root, which then would be there twice. */
async function refuseMoved(runtime: Pick<Ports, 'db' | 'devices'>, real: string): Promise<void> {
  const mark = await markAt(real);
  if (mark === null) return;
  const root = (await listRoots(runtime)).find((r) => r.mark === mark);
  if (root && (await runtime.devices.volumeOf(root.path)) === null)
    throw new Clash(`${real} carries the mark of “${root.name}”, which is offline.`, {
      file: real,
      next: `Say on Places that “${root.name}” is there now, or remove it there first.`,
    });
}

/**
 * Why a folder cannot be a root, and what to do; `null` where it can. One that holds no footage but what Sort Shelf or the system needs is
 * none: a copy into it, or a name given in it, would harm that. `besides` is the root whose own folder is not in the way.
 */
export async function whyNot(
  { db, home }: Pick<Ports, 'db' | 'home'>,
  real: string,
  besides?: string,
): Promise<{ why: string; next: string } | null> {
  const next = 'Choose a folder that holds footage, or one for it.';
  if (isSystemFolder(real)) return { why: 'is a folder of the system, or holds all volumes at once', next };
  const standIns = process.env.SORT_SHELF_STAND_INS
    ? await realpath(process.env.SORT_SHELF_STAND_INS).catch(() => null)
    : null;
  if (standIns === null || !isWithin(real, standIns)) {
    const [data, program] = await Promise.all([home, process.cwd()].map((f) => realpath(f)));
    if (isWithin(real, data!) || isWithin(data!, real))
      return { why: 'holds Sort Shelf’s own data, or is part of it', next };
    if (isWithin(program!, real)) return { why: 'holds Sort Shelf itself', next };
  }
  for (const r of await listRoots({ db })) {
    if (r.id === besides) continue;
    if (r.path === real)
      return {
        why: `is a place already: “${r.name}”, ${PART_WORDS[r.kind]}`,
        next: 'Choose another folder, or give the place another part on Places.',
      };
    if (isWithin(r.path, real) || isWithin(real, r.path))
      return {
        why: `overlaps the place “${r.name}” (${r.path})`,
        next: 'Places may not lie in one another.',
      };
  }
  return null;
}

/** Changes a root: its name, its part, or where it is now. */
export async function changeRoot(runtime: Ports, id: string, change: RootChange): Promise<void> {
  await runtime.exclusively(async () => {
    const root = await rootById(runtime, id);
    const said =
      'name' in change
        ? await rename(runtime, root, change.name)
        : 'kind' in change
          ? await givePart(runtime, root, change.kind)
          : await putAt(runtime, root, change.path);
    if (said === null) return;
    await writeLog({ db: runtime.db, who: runtime.who, job: null }, 'root', said);
    runtime.events.changed('job', 'log', 'places', 'cards', 'copies', 'clips');
  });
}

async function rename({ db }: Ports, root: Root, name: string): Promise<string | null> {
  if (name === root.name) return null;
  await db.update(roots).set({ name }).where(eq(roots.id, root.id));
  return `Renamed the place “${root.name}” to “${name}”; its folder is called as before`;
}

/** What a root may become while something of a job names it: what is read only may be named and sorted in, and the other way round. */
const INTERCHANGEABLE: readonly RootKind[] = ['source', 'shelf'];

async function givePart(runtime: Ports, root: Root, kind: NewRoot['kind']): Promise<string | null> {
  if (kind === root.kind) return null;
  if (isOwn(root.id))
    throw new Refused(`“${root.name}” is where Sort Shelf keeps its own: it keeps its part.`);
  const use = [root.kind, kind].every((k) => INTERCHANGEABLE.includes(k))
    ? null
    : await useOf(runtime, root.id);
  if (use !== null)
    throw new Clash(`“${root.name}” is in use: ${use}.`, {
      file: root.path,
      next: 'Only a place from which nothing was taken, and to which nothing was copied, gets any other part. Add another folder for it.',
    });
  await runtime.db.update(roots).set({ kind }).where(eq(roots.id, root.id));
  if (kind !== 'source' && (await runtime.devices.volumeOf(root.path)) !== null)
    await markRoot(runtime, { ...root, kind });
  return `“${root.name}” is now for: ${PART_WORDS[kind]} (before: ${PART_WORDS[root.kind]})`;
}

/** Files looked for in a folder that is said to be a root. */
const LOOKED_FOR = 24;

/** How many of the files known in a root are in a folder, with the size they are known to have; of as many as are looked for. */
async function knownIn(
  { db }: Pick<Ports, 'db'>,
  root: string,
  at: string,
): Promise<{ there: number; of: number }> {
  const known = await db
    .select({ path: files.path, size: files.size })
    .from(files)
    .where(eq(files.root, root))
    .orderBy(sql`md5(${files.path})`)
    .limit(LOOKED_FOR);
  const found = await Promise.all(
    known.map((f) =>
      stat(joinPath(at, f.path)).then(
        (s) => s.size === f.size,
        () => false,
      ),
    ),
  );
  return { there: found.filter(Boolean).length, of: known.length };
}

/** A person says where a root is now: the folder it was moved to by hand, its drive under another path, or which of a drive and its clone it is. */
async function putAt(runtime: Ports, root: Root, said: string): Promise<string | null> {
  if (isOwn(root.id))
    throw new Refused(`“${root.name}” is where Sort Shelf keeps its own: it moves with the data folder.`);
  const real = await folderFor(runtime, said, root.id);
  const { there, of } = await knownIn(runtime, root.id, real);
  if (of > 0 && there === 0)
    throw new Refused(`${real} is not “${root.name}”: of ${of} files that are known in it, none is there.`, {
      file: real,
      next: 'Choose the folder that holds them.',
    });
  const known = volumeOfRoot(runtime, real);
  // A mark of its own from now on: a copy of the folder that carries the one before is not taken for it any more.
  const mark = newMark();
  const marked = root.kind !== 'source' && (await setMark(real, mark));
  await runtime.db.transaction(async (tx) => {
    await tx
      .update(roots)
      .set({ ...known, path: real, mark: marked ? mark : null })
      .where(eq(roots.id, root.id));
    await keepPlace(tx, root.id, real);
    // Nobody has read what is in it there: sizes and times alone prove nothing.
    await runtime.distrustCopies(root.id, runtime.devices.volumeIdOf(real), tx);
  });
  return `“${root.name}” is at ${real} now${of > 0 ? ` (${there} of ${of} files that were looked for are there)` : ''}`;
}

/** What of the job names a root, in words; `null` where nothing does. */
async function useOf({ db }: Pick<Ports, 'db'>, id: string): Promise<string | null> {
  const { rows } = await db.execute<{ what: string }>(sql`
    select 'card ' || c.id as what from ${cards} c where c.root = ${id} union all
    select 'files of card ' || c.card from ${files} f join ${clips} c on c.id = f.clip where f.root = ${id} or f.taken_root = ${id} union all
    select 'card ' || p.label from ${physicalCards} p where p.root = ${id} union all
    select 'a copying of ' || o.card from ${offloads} o where o.root = ${id} or o.destinations @> jsonb_build_array(jsonb_build_object('root', ${id}::text)) union all
    select 'a safe copy of ' || p.label from ${safeCopies} s join ${physicalCards} p on p.id = s.physical where s.root = ${id} union all
    select 'a watched folder' as what from ${watches} w where w.root = ${id} union all
    select 'a package for ' || coalesce(nullif(p.wanted->>'to', ''), 'somebody') from ${packages} p where p.root = ${id} union all
    select 'names that were given, or taken back' from ${steps} t where t.from_root = ${id} or t.to_root = ${id}
    limit 1`);
  return rows[0]?.what ?? null;
}

/** Takes a root out of the list that nothing of the job names; on the disk nothing is changed. */
export async function removeRoot(runtime: Ports, id: string): Promise<void> {
  await runtime.exclusively(async () => {
    const root = await rootById(runtime, id);
    if (isOwn(id)) throw new Refused(`“${root.name}” is where Sort Shelf keeps its own: it stays.`);
    const use = await useOf(runtime, id);
    if (use !== null)
      throw new Clash(`“${root.name}” is in use: ${use}.`, {
        file: root.path,
        next: 'A place can be removed as long as nothing was taken from it or copied to it.',
      });
    await runtime.db.delete(roots).where(eq(roots.id, id));
    await writeLog(
      { db: runtime.db, who: runtime.who, job: null },
      'root',
      `Removed the place ${root.path}; nothing in it was changed`,
    );
    runtime.events.changed('job', 'log', 'places');
  });
}
