import { mkdir } from 'node:fs/promises';
import { homedir, userInfo } from 'node:os';
import path from 'node:path';
import { openDatabase, type Database, type OpenDatabase } from './db/client';
import { Offloads } from './copy/offloads';
import { endThreads } from './copy/pool';
import { type Devices, openDevices } from './devices';
import { Events } from './events';
import { holdFolder } from './lock';
import { Memory } from './memory';
import { endReaders } from './media/readPool';
import { endTagReader } from './media/tagReader';
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
  /** Whether the queue works by itself; tests work it off by hand. */
  work?: boolean;
}

/** The folder of all of Sort Shelf's data. */
export const homeFolder = (): string => path.resolve(process.env.SORT_SHELF_HOME || path.join(homedir(), '.sort-shelf'));

export async function openRuntime(options: RuntimeOptions): Promise<Runtime> {
  const release = await holdFolder(options.home);
  try {
    await mkdir(path.join(options.home, 'cache', 'filmstrips'), { recursive: true });
    const database = await openDatabase(options.databaseFolder);
    const events = new Events();
    let last: Promise<unknown> = Promise.resolve();
    const runtime: Runtime = {
      home: options.home, db: database.db, database, events, memory: new Memory(events), ffmpeg: await ffmpegVersion(), who: userInfo().username,
      queue: undefined as unknown as WorkQueue, offloads: undefined as unknown as Offloads, devices: await openDevices(),
      exclusively(work) {
        const next = last.then(work, work);
        last = next.catch(() => undefined);
        return next;
      },
      async close() {
        await runtime.offloads.stop();
        await runtime.queue.stop();
        await last;
        await endThreads();
        await Promise.all([endReaders(), endTagReader()]);
        await database.close();
        await release();
      },
    };
    runtime.queue = new WorkQueue(runtime, HANDLERS);
    runtime.offloads = new Offloads(runtime);
    await ensureRoots(runtime);
    await clearHalfMade(runtime);
    await recoverPlans(runtime);
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
  holder.sortShelf ??= openRuntime({ home, databaseFolder: path.join(home, 'database') });
  return holder.sortShelf;
}
