import path from 'node:path';
import { Piscina } from 'piscina';
import type { ListInput, Lists } from './hashList';
import type { CopyTask, FileOutcome, HashTask } from './task';

/** One reads and writes while others flush and read back: waiting for drives costs no processor. */
export const THREADS = 4;

let pool: Piscina | null = null;

/** The worker threads, started at the first use. */
function threads(): Piscina {
  pool ??= new Piscina({
    // Outside the bundle: the threads load the sources as they are.
    filename: path.join(process.cwd(), 'src/server/copy/thread.mjs'), execArgv: [], env: { ...process.env } as Record<string, string>,
    minThreads: 0, maxThreads: THREADS, idleTimeout: 60_000, concurrentTasksPerWorker: 1, recordTiming: false,
  });
  return pool;
}

/** Starts the threads while the person still looks: loading takes each of them about a second. */
export async function warmThreads(): Promise<void> {
  await Promise.all(Array.from({ length: THREADS }, () => threads().run(undefined, { name: 'ready' })));
}

export const copyFiles = (task: CopyTask): Promise<FileOutcome[]> => threads().run(task, { name: 'copy' }) as Promise<FileOutcome[]>;
export const readLists = (folder: string): Promise<Lists> => threads().run(folder, { name: 'lists' }) as Promise<Lists>;
export const addGeneration = (folder: string, input: ListInput): Promise<number> => threads().run({ folder, input }, { name: 'generation' }) as Promise<number>;
export const hashInThread = (task: HashTask): Promise<string[]> => threads().run(task, { name: 'hash' }) as Promise<string[]>;

export async function endThreads(): Promise<void> {
  const ended = pool;
  pool = null;
  await ended?.destroy();
}
