import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import type { NewRoot, RootKind, RootView } from '../../core/shapes';
import { roots } from '../db/schema';
import { NotFound, Refused } from '../errors';
import type { Runtime } from '../runtime';
import { writeLog } from './log';
import { joinPath } from '../files/names';
import { mkdir, realpath, stat } from '../files/onDisk';
import { isWithin } from '../files/paths';

export type Root = typeof roots.$inferSelect;

const FIRST: readonly { id: string; kind: RootKind; name: string; folder: string }[] = [
  { id: 'shelf', kind: 'shelf', name: 'Shelf', folder: 'shelf' },
  { id: 'proxies', kind: 'proxies', name: 'Proxies', folder: 'proxies' },
  { id: 'handover', kind: 'handover', name: 'Handover', folder: 'handover' },
];

/** Makes the roots a new data folder starts with, inside it. */
export async function ensureRoots(runtime: Pick<Runtime, 'db' | 'home'>): Promise<void> {
  const have = await runtime.db.select().from(roots);
  for (const { id, kind, name, folder } of FIRST) {
    if (have.some((r) => r.id === id)) continue;
    const where = joinPath(runtime.home, folder);
    await mkdir(where);
    await runtime.db.insert(roots).values({ id, kind, name, path: await realpath(where) });
  }
}

export const listRoots = (runtime: Pick<Runtime, 'db'>): Promise<Root[]> => runtime.db.select().from(roots);

export async function rootById(from: Pick<Runtime, 'db'> | Pick<Runtime['db'], 'select'>, id: string): Promise<Root> {
  const db = 'db' in from ? from.db : from;
  const [root] = await db.select().from(roots).where(eq(roots.id, id));
  if (!root) throw new NotFound('This root is not known.', { next: 'Choose one of the roots listed.' });
  return root;
}

/** Only the roots in which clips may be moved; a source is read and copied from. */
export const isMovable = (kind: RootKind): boolean => kind === 'shelf' || kind === 'proxies';

export async function rootViews(runtime: Pick<Runtime, 'db' | 'devices'>): Promise<RootView[]> {
  const list = await listRoots(runtime);
  return Promise.all(list.map(async (r): Promise<RootView> => {
    const volume = await runtime.devices.volumeOf(r.path);
    return {
      ...r, present: volume !== null, free: volume?.free ?? null, total: volume?.total ?? null, volume: volume?.id ?? null, volumeName: volume?.name ?? null,
      disk: volume ? runtime.devices.diskOf(r.path) : null,
    };
  }));
}

/**
 * Adds a folder of the person's as a root. One inside another, or around another, is refused: a file must stand in one
 * root only.
 */
export async function addRoot(runtime: Runtime, wanted: NewRoot): Promise<Root> {
  if (!path.isAbsolute(wanted.path)) throw new Refused('Give the whole path of the folder, from the top.', { file: wanted.path });
  const real = await realpath(wanted.path).catch(() => {
    throw new NotFound(`There is no folder ${wanted.path}.`, { file: wanted.path, next: 'Check the spelling, or connect the volume.' });
  });
  if (!(await stat(real)).isDirectory()) throw new Refused(`${wanted.path} is a file, not a folder.`, { file: wanted.path });
  for (const r of await listRoots(runtime)) {
    if (r.path === real) throw new Refused(`${wanted.path} is a root already: “${r.name}”.`, { file: wanted.path });
    if (isWithin(r.path, real) || isWithin(real, r.path)) {
      throw new Refused(`${wanted.path} overlaps the root “${r.name}” (${r.path}).`, { file: wanted.path, next: 'Roots may not lie in one another.' });
    }
  }
  const root: Root = { id: randomUUID(), kind: wanted.kind, name: path.basename(real) || real, path: real };
  await runtime.db.insert(roots).values(root);
  await writeLog(runtime, 'root', `Added ${real} as a ${{ source: 'source (read only)', safe: 'safe copy', shelf: 'shelf' }[wanted.kind]} root`);
  runtime.events.changed('job', 'log');
  return root;
}
