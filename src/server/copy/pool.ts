import { availableParallelism } from 'node:os';
import { Threads } from '../threads';
import type { ListInput, Lists } from './hashList';
import type { CopyTask, FileOutcome, HashTask } from './task';

/** One more than there are processors: while some flush and wait for drives, others hash. More of them take memory and each other's cache. */
export const THREADS = Math.min(4, availableParallelism() + 1);

const threads = new Threads('src/server/copy/thread.mjs', THREADS);

/** Starts the threads while the person still looks. */
export const warmThreads = (): Promise<void> => threads.warm();
export const endThreads = (): Promise<void> => threads.end();

export const copyFiles = (task: CopyTask): Promise<FileOutcome[]> => threads.run('copy', task);
export const readLists = (folder: string): Promise<Lists> => threads.run('lists', folder);
export const addGeneration = (folder: string, input: ListInput): Promise<number> => threads.run('generation', { folder, input });
export const hashInThread = (task: HashTask): Promise<string[]> => threads.run('hash', task);
