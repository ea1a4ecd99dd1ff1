import { homedir, userInfo } from 'node:os';
import path from 'node:path';
import PQueue from 'p-queue';
import { openDatabase, type OpenDatabase } from './platform/db/client';
import { openServer } from './platform/db/server';
import { Keeping } from './keeping';
import { distrustCopies } from './custody';
import {
  DatabaseKeeper,
  isDatabaseFault,
  lost,
  openKept,
  refuseFull,
  type Restore,
} from './platform/db/keeper';
import { placeNext, recoverPlans } from './naming';
import { nextKeeper } from './next';
import { ruleKeeper } from './choose';
import { clearLeftImages, endReports, queuePackages } from './handover';
import { CopyMeter, queueCopies } from './offload';
import { endThreads } from './transfer';
import { openDevices } from './platform/volumes/devices';
import { messageOf } from './platform/errors';
import type { ServerEvent } from '../core/overview';
import { inJob, type JobServices, type OfJob, type Services } from './services';
import type { WorkKind } from '../core/platform/shapes';
import { Events } from './platform/events';
import { HomeWatch } from './platform/home';
import { holdFolder } from './platform/lock';
import {
  clearLeftExports,
  disagreements,
  adoptPlans,
  homeRecords,
  openLibrary,
  RecordsWriter,
} from './records';
import { JOURNAL, OWN_FOLDER } from './platform/files/journal';
import { ViewCache } from './platform/viewCache';
import { Repeats } from './platform/repeats';
import { clearLeftInputs } from './platform/media/input';
import { Undos } from './platform/undos';
import { endReaders, endTagReader } from './reading';

import { WatchKeeper } from './watch';
import { ffmpegVersion } from './platform/media/tools';
import { WorkQueue } from './platform/work/queue';
import { clearHalfMade, proxiesNext, proxyKeeper, watchAllPairs } from './proxies';
import { workOutAll } from './facts';
import { ensureRoots, settleMounts, VolumeWatch } from './places';
import { KINDS } from './handlers';
import { joinPath } from './platform/files/names';
import { mkdir, realpath } from './platform/files/onDisk';

/** The services while they run: one per process, made at the start and closed at the end. */
export interface Runtime extends Services {
  queue: WorkQueue<JobServices>;
  /** The same, as one job works with it. */
  inJob(job: string): InJob;
  close(): Promise<void>;
}

/** The runtime as one job works with it. */
export type InJob = Runtime & OfJob;

export interface RuntimeOptions {
  home: string;
  /** Where the embedded database is; absent for one in memory. */
  databaseFolder?: string;
  /** Of a PostgreSQL server's database, in place of the embedded one. */
  databaseUrl?: string;
  /** One in memory that is open already and is closed with the runtime. */
  database?: OpenDatabase;
  /** What is done where the database is damaged or gone. */
  restore?: Restore;
  /** Whether the database that is there is known to be lost, though it may open: `restore` takes its place. */
  aside?: boolean;
  /** Milliseconds without a snapshot after which closing makes one. */
  snapshotAfter?: number;
  /** What the queue works on by itself: everything where it is absent; tests work off by hand what is not named. */
  work?: false | readonly WorkKind[];
}

/** The folder of all of Sort Shelf's data. */
export const homeFolder = (): string =>
  path.resolve(process.env.SORT_SHELF_HOME || joinPath(homedir(), '.sort-shelf'));

/** A server that ran shorter than this makes none when it closes: the records know as much. */
const LAST_SNAPSHOT = 60_000;
/** Milliseconds between two looks for a drive that an interrupted plan waits for, at where drives are mounted, and at the files of pairs. */
const [RECOVERY, MOUNTS, PAIRS] = [5000, 1000, 120_000];

/** What only a database that was begun leaves in its data folder. */
const tracesIn = (home: string): string[] => [
  homeRecords(home),
  joinPath(home, 'shelf', OWN_FOLDER, JOURNAL),
];

/** What the record beside it says against a database that was not closed; `silent` is called where there is none. */
async function doubtOf({ db }: OpenDatabase, home: string, silent: () => void): Promise<string | null> {
  const differ = await disagreements(db, home);
  if (differ === null) silent();
  return differ === null || differ === 0
    ? null
    : `${differ} ${differ === 1 ? 'row is' : 'rows are'} not as the record beside it has them, as after a power cut`;
}

/** The database of a runtime. */
interface Opened {
  database: OpenDatabase;
  /** Null where nobody has to keep it from outside: a server's, or one in memory. */
  keeper: DatabaseKeeper | null;
  /** Whether it was brought back from an older state, or may lack what was found out last, which nothing tells. */
  unsure: boolean;
  /** Whether it is there after the end of this process. */
  lasts: boolean;
}

/** Opens the database: a server's, the embedded one in its folder, or one in memory. */
async function openItsDatabase(options: RuntimeOptions): Promise<Opened> {
  const { home, databaseFolder: folder, databaseUrl } = options;
  if (databaseUrl)
    return { database: await openServer(databaseUrl), keeper: null, unsure: false, lasts: true };
  if (!folder)
    return {
      database: options.database ?? (await openDatabase()),
      keeper: null,
      unsure: false,
      lasts: false,
    };
  const snapshots = joinPath(home, 'snapshots');
  let unsure = false;
  const silent = () => {
    unsure = true;
  };
  const { database, restored } = await openKept(
    {
      folder,
      snapshots,
      traces: tracesIn(home),
      doubt: (d) => doubtOf(d, home, silent),
      aside: options.aside ?? false,
    },
    options.restore ?? 'say',
    (dump) => openDatabase(folder, dump),
  );
  const keeper = new DatabaseKeeper(database.embedded!, folder, snapshots);
  return { database, keeper, unsure: unsure || restored, lasts: true };
}

/** Brings what was left by the server before up to date. `library` is null where nothing is recorded. */
async function bringUp(
  runtime: Runtime,
  {
    keeping,
    unsure,
    library,
  }: { keeping: Keeping; unsure: boolean; library: Awaited<ReturnType<typeof openLibrary>> | null },
): Promise<void> {
  await ensureRoots(runtime);
  await settleMounts(runtime);
  if (library) keeping.records = new RecordsWriter(runtime, library);
  const behind = await runtime.heedRecords();
  await keeping.records?.begin();
  if (unsure || behind) await adoptPlans(runtime);
  await Promise.all([
    clearHalfMade(runtime),
    clearLeftInputs(),
    clearLeftExports(runtime),
    clearLeftImages(runtime),
  ]);
  await runtime.recover();
  await workOutAll(runtime);
  await runtime.queue.recover();
  await queueCopies(runtime);
  await queuePackages(runtime);
}

/** Looks at the files of pairs now and then; and where roots stand, too, whenever a volume has come or gone. */
function watchFiles(runtime: Runtime, repeats: Repeats): void {
  const pairs = repeats.every(PAIRS, 'pairs', () => watchAllPairs(runtime), { atOnce: true });
  let settled = true;
  repeats.every(MOUNTS, 'roots', async () => {
    if (!runtime.volumes.look() && settled) return;
    // Where it cannot be settled it is tried again at the next look.
    settled = false;
    runtime.events.changed('places');
    await settleMounts(runtime);
    // What came or went meanwhile was seen there or not: it is settled at the next look, also where all is by then as it was before.
    settled = !runtime.volumes.look();
    runtime.events.changed('places');
    void pairs();
  });
}

/** What works by itself whenever something has changed, in the order it begins and ends. */
function keepersOf(runtime: Runtime): { begin(): void; end(): Promise<void> }[] {
  const watching = new WatchKeeper(runtime);
  runtime.watching = watching;
  return [
    ruleKeeper(runtime),
    nextKeeper(runtime, { place: placeNext, proxies: proxiesNext }),
    proxyKeeper(runtime),
    watching,
  ];
}

/** Writes what is not written yet, and closes the database. `due` tells whether a snapshot is to be made first. */
async function closeKept(
  {
    database,
    keeper,
    keeping,
    watch,
  }: { database: OpenDatabase; keeper: DatabaseKeeper | null; keeping: Keeping; watch: HomeWatch },
  due: (keeper: DatabaseKeeper) => boolean,
): Promise<void> {
  await endThreads();
  await Promise.all([endReaders(), endTagReader(), endReports()]);
  await keeping.end();
  await watch.check().catch(() => undefined);
  // The last record is written while it is watched: whoever writes it looks first.
  if (!watch.gone)
    await keeping.records?.write().catch((e: unknown) => console.error('records:', messageOf(e)));
  await watch.end();
  if (watch.gone) {
    // What it has not got is told at the next start, by the mark that is left.
    await database.abandon().catch((e: unknown) => console.error('database:', messageOf(e)));
    return;
  }
  if (keeper && due(keeper))
    await keeper.snapshot().catch((e: unknown) => console.error('snapshot:', messageOf(e)));
  await database.close();
}

export async function openRuntime(given: RuntimeOptions): Promise<Runtime> {
  const release = await holdFolder(given.home);
  // By its real path: nothing of ours is opened through a link.
  const options = { ...given, home: await realpath(given.home) };
  /** What is begun, to be ended where the rest cannot be opened. */
  const begun: (() => unknown)[] = [];
  try {
    await mkdir(joinPath(options.home, 'cache', 'filmstrips'));
    const events = new Events<ServerEvent>();
    const { database, keeper, unsure, lasts } = await openItsDatabase(options);
    begun.push(() => database.abandon());
    if (unsure) await distrustCopies(database.db);
    const library = await openLibrary(database.db, unsure);
    const watch = await HomeWatch.of(options.home, () => {
      console.error(`The data folder ${options.home} is no longer there. What runs is stopped.`);
      void runtime.queue.stop().catch((e: unknown) => console.error('stopping:', messageOf(e)));
      events.changed('job');
    });
    begun.push(() => watch.end());
    const keeping = new Keeping({ events, watch, keeper });
    begun.push(() => keeping.end());
    const turns = new PQueue({ concurrency: 1 });
    let away: string[] = [];
    let closed = false;
    const devices = await openDevices();
    const repeats = new Repeats();
    begun.push(() => repeats.end());
    const runtime: Runtime = {
      home: options.home,
      db: database.db,
      database,
      events,
      viewCache: new ViewCache(events),
      ffmpeg: await ffmpegVersion(),
      who: userInfo().username,
      queue: undefined as unknown as WorkQueue<JobServices>,
      meter: new CopyMeter(events),
      undos: new Undos(),
      saidBack: new Undos(200_000),
      watching: undefined as unknown as WatchKeeper,
      devices,
      volumes: new VolumeWatch(devices),
      distrustCopies: (root, volume, tx = database.db) => distrustCopies(tx, root, volume),
      checkHome: () => watch.check(),
      keepNow: () => keeping.now(),
      async heedRecords() {
        return (await keeping.records?.heed()) ?? false;
      },
      async recover() {
        away = await recoverPlans(runtime);
      },
      exclusively: (work) => turns.add(work),
      inJob: (job) => inJob(runtime, job),
      async close() {
        if (closed) return;
        closed = true;
        repeats.end();
        for (const k of keepers) await k.end();
        await runtime.queue.stop();
        await turns.onIdle();
        await closeKept(
          { database, keeper, keeping, watch },
          (k) => events.revision > 0 && k.age >= (options.snapshotAfter ?? LAST_SNAPSHOT),
        );
        await release();
      },
    };
    const keepers = keepersOf(runtime);
    begun.push(...keepers.map((k) => () => k.end()));
    runtime.queue = new WorkQueue(
      { database, events, given: (job): JobServices => inJob(runtime, job) },
      KINDS,
    );
    await bringUp(runtime, { keeping, unsure, library: lasts ? library : null });
    if (options.work !== false) await runtime.queue.start(options.work);
    // A plan that was interrupted waits for its drive.
    repeats.every(RECOVERY, 'plans', async () => {
      if (away.length > 0) await runtime.exclusively(() => runtime.recover());
    });
    if (options.work === undefined) {
      watchFiles(runtime, repeats);
      for (const k of keepers) k.begin();
    }
    // It may have gone while all this was opened.
    await watch.check();
    return runtime;
  } catch (e) {
    for (const end of begun.reverse())
      await Promise.resolve(end()).catch((fault: unknown) => console.error('database:', messageOf(fault)));
    await release();
    throw options.databaseFolder ? await damageIn(options.databaseFolder, e) : e;
  }
}

/** What a fault while all was opened says of the database in a folder: it may be damaged where nobody had looked yet. Throws where its disk is full. */
async function damageIn(folder: string, e: unknown): Promise<unknown> {
  if (!isDatabaseFault(e)) return e;
  await refuseFull(e, folder);
  return lost(folder, `The database in ${folder} is damaged: ${messageOf(e)}.`);
}

const holder = globalThis as { sortShelf?: Promise<Runtime> };

/** Opens the runtime of the data folder. `aside` where its database is known to be lost. */
export const openHome = (restore: Restore, aside = false): Promise<Runtime> =>
  openRuntime({
    home: homeFolder(),
    ...(process.env.DATABASE_URL
      ? { databaseUrl: process.env.DATABASE_URL }
      : { databaseFolder: joinPath(homeFolder(), 'database') }),
    restore,
    aside,
  });

/**
 * The process's runtime, opened at the first call; `instead` takes its place, where it could not be opened. Kept on the global
 * object: Next loads modules more than once.
 */
export function runtime(instead?: () => Promise<Runtime>): Promise<Runtime> {
  const wanted = process.env.SORT_SHELF_DATABASE;
  if (instead) holder.sortShelf = instead();
  holder.sortShelf ??= openHome(wanted === 'snapshot' || wanted === 'empty' ? wanted : 'say');
  return holder.sortShelf;
}
