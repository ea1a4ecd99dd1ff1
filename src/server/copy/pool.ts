import { Threads } from '../threads';
import type { ListInput, Lists } from './hashList';
import type { CopyTask, FileOutcome, HashTask } from './task';

/** One reads and writes while others flush and read back: waiting for drives costs no processor. */
export const THREADS = 4;

const threads = new Threads('src/server/copy/thread.mjs', THREADS);

/** Starts the threads while the person still looks. */
export const warmThreads = (): Promise<void> => threads.warm();
export const endThreads = (): Promise<void> => threads.end();

export const copyFiles = (task: CopyTask): Promise<FileOutcome[]> => threads.run('copy', task);
export const readLists = (folder: string): Promise<Lists> => threads.run('lists', folder);
export const addGeneration = (folder: string, input: ListInput): Promise<number> => threads.run('generation', { folder, input });
export const hashInThread = (task: HashTask): Promise<string[]> => threads.run('hash', task);
