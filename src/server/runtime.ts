import { mkdir } from 'node:fs/promises';
import { homedir, userInfo } from 'node:os';
import path from 'node:path';
import { openDatabase, type Database, type OpenDatabase } from './db/client';
import { distrustCopies } from './custody/copies';
import { DatabaseKeeper, openKept, type Restore } from './db/keeper';
import { Offloads } from './copy/offloads';
import { endThreads } from './copy/pool';
import { type Devices, openDevices } from './devices';
import { messageOf } from './errors';
import { Events } from './events';
import { holdFolder } from './lock';
import { Memory } from './memory';
import { endReaders } from './media/readPool';
import { endTagReader } from './media/tagReader';
import { Tasks } from './tasks';
import { ffmpegVersion } from './media/tools';
import { WorkQueue } from './jobs/queue';
import { recoverPlans } from './usecases/applyPlan';
import { clearHalfMade } from './usecases/makeProxies';
import { showMissing } from './usecases/readClips';
import { ensureRoots } from './usecases/roots';
import { HANDLERS } from './jobs/handlers';

/** Everything a use case works with. One per process, made at the start and closed at the end. */
export interface Runtime {
  home: string;
  db: Database;
  database: OpenDatabase;
  events: Events;
  memory: Memory;
  queue: WorkQueue;
  offloads: Offloads;
  devices: Devices;
  /** Flushes the database: what was found out about footage must not be lost by a power cut. */
  flushDatabase(): Promise<unknown>;
  tasks: Tasks;
  ffmpeg: string;
  who: string;
  /** Runs work that moves or names footage, one at a time. */
  exclusively<T>(work: () => Promise<T>): Promise<T>;
  close(): Promise<void>;
}

export interface RuntimeOptions {
  home: string;
  /** Absent for a database in memory. */
  databaseFolder?: string;
  /** What is done where the database is damaged or gone. */
  restore?: Restore;
  /** Whether the queue works by itself; tests work it off by hand. */
  work?: boolean;
}

/** The folder of all of Sort Shelf's data. */
export const homeFolder = (): string => path.resolve(process.env.SORT_SHELF_HOME || path.join(homedir(), '.sort-shelf'));

/** Milliseconds between two flushes of a database that was written to, and between two snapshots of it. */
const FLUSHES = 3000;
const SNAPSHOTS = 10 * 60_000;
/** Milliseconds between two looks for a drive that an interrupted plan waits for. */
const RECOVERY = 5000;

export async function openRuntime(options: RuntimeOptions): Promise<Runtime> {
  const release = await holdFolder(options.home);
  try {
    await mkdir(path.join(options.home, 'cache', 'filmstrips'), { recursive: true });
    const events = new Events();
    const { databaseFolder } = options;
    const snapshots = path.join(options.home, 'snapshots');
    const { database, restored } = databaseFolder
      ? await openKept(databaseFolder, snapshots, options.restore ?? 'say', (dump) => openDatabase(databaseFolder, dump))
      : { database: await openDatabase(), restored: false };
    if (restored) await distrustCopies(database.db);
    const keeper = databaseFolder ? new DatabaseKeeper(database.engine, databaseFolder, snapshots) : null;
    let kept = -1;
    let now: Promise<unknown> = Promise.resolve();
    const keeping = setInterval(() => {
      if (!keeper || kept === events.revision) return;
      kept = events.revision;
      now = keeper.flush().then(() => (keeper.age > SNAPSHOTS ? keeper.snapshot() : null)).catch((e: unknown) => console.error('database:', messageOf(e)));
    }, FLUSHES);
    keeping.unref();
    let last: Promise<unknown> = Promise.resolve();
    let away: string[] = [];
    // A plan that was interrupted waits for its drive.
    const again = setInterval(() => {
      if (away.length > 0) void runtime.exclusively(() => recoverPlans(runtime)).then((left) => { away = left; }, (e: unknown) => console.error('plans:', messageOf(e)));
    }, RECOVERY);
    again.unref();
    const runtime: Runtime = {
      home: options.home, db: database.db, database, events,
      memory: new Memory(events), ffmpeg: await ffmpegVersion(), who: userInfo().username,
      queue: undefined as unknown as WorkQueue, offloads: undefined as unknown as Offloads, devices: await openDevices(),
      tasks: new Tasks(events), flushDatabase: async () => keeper?.flush(),
      exclusively(work) {
        const next = last.then(work, work);
        last = next.catch(() => undefined);
        return next;
      },
      async close() {
        clearInterval(again);
        clearInterval(keeping);
        await runtime.tasks.end();
        await runtime.offloads.stop();
        await runtime.queue.stop();
        await last;
        await endThreads();
        await Promise.all([endReaders(), endTagReader()]);
        await now;
        if (keeper && events.revision > 0) await keeper.snapshot().catch((e: unknown) => console.error('snapshot:', messageOf(e)));
        await database.close();
        await keeper?.flush();
        await release();
      },
    };
    runtime.queue = new WorkQueue(runtime, HANDLERS);
    runtime.offloads = new Offloads(runtime);
    await ensureRoots(runtime);
    await clearHalfMade(runtime);
    away = await recoverPlans(runtime);
    await showMissing(runtime);
    await runtime.queue.recover();
    if (options.work !== false) {
      await runtime.queue.start();
      await runtime.offloads.start();
    }
    return runtime;
  } catch (e) {
    await release();
    throw e;
  }
}

const holder = globalThis as { sortShelf?: Promise<Runtime> };

/** The process's runtime, opened at the first call. Kept on the global object: Next loads modules more than once. */
export function runtime(): Promise<Runtime> {
  const home = homeFolder();
  const wanted = process.env.SORT_SHELF_DATABASE;
  holder.sortShelf ??= openRuntime({ home, databaseFolder: path.join(home, 'database'), restore: wanted === 'snapshot' || wanted === 'empty' ? wanted : 'say' });
  return holder.sortShelf;
}
