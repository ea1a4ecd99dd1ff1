import { and, desc, eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { NewWatch, type WatchOptions, type WatchView } from '../../core/watch';
import { shownPath } from '../../core/platform/names';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { listRoots, rootById } from '../places';
import { Clash, NotFound, Refused } from '../platform/errors';
import { stat } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import type { Writer } from '../platform/db/transaction';
import type { InJob } from './ports';
import { watches, watchFinds } from './tables';

/** Most finds that are listed of a folder. */
const LISTED = 200;

/** The watched folders of a job, as they are now. */
export async function watchViews(runtime: InJob): Promise<WatchView[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const rows = await runtime.db.select().from(watches).where(eq(watches.job, runtime.job));
  return Promise.all(
    rows.map(async (w): Promise<WatchView> => {
      const state = runtime.watching.state(w.id);
      const finds = await runtime.db
        .select()
        .from(watchFinds)
        .where(and(eq(watchFinds.watch, w.id), eq(watchFinds.read, false)))
        .orderBy(desc(watchFinds.at))
        .limit(LISTED);
      return {
        id: w.id,
        root: w.root,
        rootName: roots.get(w.root)?.name ?? w.root,
        path: shownPath(w.path),
        options: w.options,
        by: w.options.byItself ? (state?.listening?.by ?? 'events') : 'asking',
        why: state?.listening?.why ?? '',
        here: state?.eyes.here ?? true,
        moving: state?.eyes.moving ?? 0,
        looked: state?.eyes.looked?.toISOString() ?? null,
        fault: state?.eyes.fault ?? null,
        finds: finds.map(({ id, at, kind, text }) => ({ id, at: at.toISOString(), kind, text })),
      };
    }),
  );
}

/** The watched folders of the job in a place, but for the place as a whole. */
export async function watchesBelow(
  { db, job }: Pick<InJob, 'db' | 'job'>,
  root: string,
): Promise<{ path: string; options: WatchOptions }[]> {
  const rows = await db
    .select()
    .from(watches)
    .where(and(eq(watches.job, job), eq(watches.root, root)));
  return rows
    .filter((w) => w.path !== '')
    .map(({ path, options }) => ({ path, options }))
    .sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }));
}

/** Watches a folder of a place. One in a watched folder, or around one, is refused: a file would be taken in twice. */
export async function watchFolder(runtime: InJob, asked: NewWatch): Promise<{ id: string }> {
  const { root: rootId, path, options } = NewWatch.parse(asked);
  const root = await rootById(runtime, rootId);
  if (root.kind === 'proxies' || root.kind === 'handover' || root.kind === 'safe')
    throw new Refused(`“${root.name}” holds what Sort Shelf made or copied: nothing new comes in there.`, {
      next: 'Watch a folder that is read only, or in which clips are named.',
    });
  if (!(await stat(await resolveIn(root, path))).isDirectory())
    throw new Refused(`“${path}” is a file, not a folder.`, { file: path });
  const name = shownPath(path) || root.name;
  return runtime.exclusively(async () => {
    const rows = await runtime.db
      .select()
      .from(watches)
      .where(and(eq(watches.job, runtime.job), eq(watches.root, rootId)));
    const isIn = (a: string, b: string) => b === '' || a === b || a.startsWith(`${b}/`);
    const other = rows.find((w) => isIn(w.path, path) || isIn(path, w.path));
    if (other)
      throw new Clash(
        `“${shownPath(other.path) || root.name}” is watched already, and holds the same files.`,
        {
          next: 'Let go of that one first, or choose another folder.',
        },
      );
    const id = randomUUID();
    await runtime.db.insert(watches).values({ id, job: runtime.job, root: rootId, path, options });
    await writeLog(runtime, 'takeIn', `The folder ${name} is watched from now on`);
    runtime.events.changed('watches', 'log');
    return { id };
  });
}

async function watchIn({ db, job }: InJob, id: string): Promise<typeof watches.$inferSelect> {
  const [row] = await db
    .select()
    .from(watches)
    .where(and(eq(watches.id, id), eq(watches.job, job)));
  if (!row) throw new NotFound('This folder is not watched any more.');
  return row;
}

export async function setWatch(runtime: InJob, id: string, options: WatchOptions): Promise<void> {
  await watchIn(runtime, id);
  await runtime.db.update(watches).set({ options }).where(eq(watches.id, id));
  runtime.events.changed('watches');
}

/** Watches a folder no more. What was taken in from it stays. */
export async function dropWatch(runtime: InJob, id: string): Promise<void> {
  const row = await watchIn(runtime, id);
  await runtime.db.delete(watches).where(eq(watches.id, id));
  await writeLog(runtime, 'takeIn', `The folder ${shownPath(row.path)} is no longer watched`);
  runtime.events.changed('watches', 'log');
}

/** Looks at a watched folder now. */
export async function lookNow(runtime: InJob, id: string): Promise<void> {
  await watchIn(runtime, id);
  await requireJob(runtime);
  await runtime.watching.lookNow(id);
}

/** What was found in a folder is read. */
export async function readFinds(runtime: InJob, id: string): Promise<void> {
  await watchIn(runtime, id);
  await runtime.db.update(watchFinds).set({ read: true }).where(eq(watchFinds.watch, id));
  runtime.events.changed('watches');
}

/** A job that is removed watches nothing. */
export async function forgetWatches(tx: Pick<Writer, 'delete'>, job: string): Promise<void> {
  await tx.delete(watches).where(eq(watches.job, job));
}
