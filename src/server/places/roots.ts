import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { eq, sql } from 'drizzle-orm';
import type { NewRoot, RootKind, RootView } from '../../core/places/shapes';
import { isSystemFolder } from '../../core/platform/places';
import { cards, clips, files } from '../cards/tables';
import { offloads } from '../offload/tables';
import { packages } from '../handover/tables';
import { physicalCards, safeCopies } from '../custody/tables';
import { roots } from './tables';
import { listRoots, type Root, rootById } from './list';
import { volumeOfRoot } from './mounts';
import { steps } from '../naming/tables';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { Ports } from './ports';
import { writeLog } from '../logbook';
import { joinPath } from '../platform/files/names';
import { mkdir, realpath, stat } from '../platform/files/onDisk';
import { isWithin } from '../platform/files/paths';

const FIRST: readonly { id: string; kind: RootKind; name: string; folder: string }[] = [
  { id: 'shelf', kind: 'shelf', name: 'Shelf', folder: 'shelf' },
  { id: 'proxies', kind: 'proxies', name: 'Proxies', folder: 'proxies' },
  { id: 'handover', kind: 'handover', name: 'Handover', folder: 'handover' },
];

/** Makes the roots a new data folder starts with, inside it. */
export async function ensureRoots(runtime: Pick<Ports, 'db' | 'home'>): Promise<void> {
  const have = await runtime.db.select().from(roots);
  for (const { id, kind, name, folder } of FIRST) {
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

/**
 * Adds a folder of the person's as a root. One inside another, or around another, is refused: a file must be in one
 * root only.
 */
export const addRoot = (runtime: Ports, wanted: NewRoot): Promise<Root> =>
  runtime.exclusively(() => addOne(runtime, wanted));

async function addOne(runtime: Ports, wanted: NewRoot): Promise<Root> {
  if (!path.isAbsolute(wanted.path))
    throw new Refused('Give the full path of the folder.', { file: wanted.path });
  const real = await realpath(wanted.path).catch(() => {
    throw new NotFound(`There is no folder ${wanted.path}.`, {
      file: wanted.path,
      next: 'Check the spelling, or connect the volume.',
    });
  });
  if (!(await stat(real)).isDirectory())
    throw new Refused(`${wanted.path} is a file, not a folder.`, { file: wanted.path });
  await checkHoldsFootage(runtime, wanted.path, real);
  for (const r of await listRoots(runtime)) {
    if (r.path === real)
      throw new Refused(`${wanted.path} is a root already: “${r.name}”.`, { file: wanted.path });
    if (isWithin(r.path, real) || isWithin(real, r.path)) {
      throw new Refused(`${wanted.path} overlaps the root “${r.name}” (${r.path}).`, {
        file: wanted.path,
        next: 'Roots may not lie in one another.',
      });
    }
  }
  const row = {
    id: randomUUID(),
    kind: wanted.kind,
    name: path.basename(real) || real,
    path: real,
    ...volumeOfRoot(runtime, { kind: wanted.kind, path: real }),
  };
  await runtime.db.insert(roots).values(row);
  await writeLog(
    { db: runtime.db, who: runtime.who, job: null },
    'root',
    `Added ${real} as a ${{ source: 'source (read only)', safe: 'safe copy', shelf: 'shelf', handover: 'hand-over' }[wanted.kind]} root`,
  );
  runtime.events.changed('job', 'log');
  return { ...row, added: real };
}

/** Refuses folders that hold no footage but what Sort Shelf or the system needs: a copy into them, or a name given in them, would harm it. */
async function checkHoldsFootage({ home }: Pick<Ports, 'home'>, said: string, real: string): Promise<void> {
  const refuse = (why: string) =>
    new Refused(`${said} ${why}.`, {
      file: said,
      next: 'Choose a folder that holds footage, or one for it.',
    });
  if (isSystemFolder(real)) throw refuse('is a folder of the system, or holds all volumes at once');
  const standIns = process.env.SORT_SHELF_STAND_INS
    ? await realpath(process.env.SORT_SHELF_STAND_INS).catch(() => null)
    : null;
  if (standIns !== null && isWithin(real, standIns)) return;
  const [data, program] = await Promise.all([home, process.cwd()].map((f) => realpath(f)));
  if (isWithin(real, data!) || isWithin(data!, real))
    throw refuse('holds Sort Shelf’s own data, or is part of it');
  if (isWithin(program!, real)) throw refuse('holds Sort Shelf itself');
}

/** What of the job names a root, in words; `null` where nothing does. */
async function useOf({ db }: Pick<Ports, 'db'>, id: string): Promise<string | null> {
  const { rows } = await db.execute<{ what: string }>(sql`
    select 'card ' || c.id as what from ${cards} c where c.root = ${id} union all
    select 'files of card ' || c.card from ${files} f join ${clips} c on c.id = f.clip where f.root = ${id} or f.taken_root = ${id} union all
    select 'card ' || p.label from ${physicalCards} p where p.root = ${id} union all
    select 'a copying of ' || o.card from ${offloads} o where o.root = ${id} or o.destinations @> jsonb_build_array(jsonb_build_object('root', ${id}::text)) union all
    select 'a safe copy of ' || p.label from ${safeCopies} s join ${physicalCards} p on p.id = s.physical where s.root = ${id} union all
    select 'a package for ' || coalesce(nullif(p.wanted->>'to', ''), 'somebody') from ${packages} p where p.root = ${id} union all
    select 'names that were given, or taken back' from ${steps} t where t.from_root = ${id} or t.to_root = ${id}
    limit 1`);
  return rows[0]?.what ?? null;
}

/** Takes a root out of the list that nothing of the job names; on the disk nothing is changed. */
export async function removeRoot(runtime: Ports, id: string): Promise<void> {
  await runtime.exclusively(async () => {
    const root = await rootById(runtime, id);
    if (FIRST.some((f) => f.id === id))
      throw new Refused(`“${root.name}” is where Sort Shelf keeps its own: it stays.`);
    const use = await useOf(runtime, id);
    if (use !== null)
      throw new Clash(`“${root.name}” is in use: ${use}.`, {
        file: root.path,
        next: 'A root can be removed as long as nothing was taken from it or copied to it.',
      });
    await runtime.db.delete(roots).where(eq(roots.id, id));
    await writeLog(
      { db: runtime.db, who: runtime.who, job: null },
      'root',
      `Removed the root ${root.path}; nothing in it was changed`,
    );
    runtime.events.changed('job', 'log');
  });
}
