import { availableParallelism } from 'node:os';
import { NotFound, Unreadable } from '../platform/errors';
import { Threads } from '../platform/threads';
import type { ExpectedFiles, ListInput } from './hashList';
import type { CopyTask, FileOutcome, HashOutcome, HashTask, RefusedList } from './task';

/** One more than there are processors: while some flush and wait for drives, others hash. More of them take memory and each other's cache. */
export const THREADS = Math.min(4, availableParallelism() + 1);

const threads = new Threads('.cache/threads/transfer.mjs', THREADS);

/** Starts the threads while the person still looks. */
export const warmThreads = (): Promise<void> => threads.warm();
export const endThreads = (): Promise<void> => threads.end();

export const copyFiles = (task: CopyTask): Promise<FileOutcome[]> => threads.run('copy', task);
/** What a folder's own lists, or the one at `list`, say of its files. */
export async function readExpected(folder: string, list: string | null): Promise<ExpectedFiles> {
  const said = await threads.run<ExpectedFiles | { refused: RefusedList }>('expected', { folder, list });
  if ('refused' in said)
    throw new (said.refused.gone ? NotFound : Unreadable)(said.refused.message, said.refused.about);
  return said;
}
/** The last generation that is being added to a folder. */
const turns = new Map<string, Promise<unknown>>();
/** Adds a generation to a folder's lists, after those that are being added to it. */
export function addGeneration(folder: string, input: ListInput): Promise<number> {
  const mine = (turns.get(folder) ?? Promise.resolve())
    .catch(() => undefined)
    .then(() => threads.run<number>('generation', { folder, input }));
  turns.set(folder, mine);
  return mine.finally(() => turns.get(folder) === mine && turns.delete(folder));
}
/** Hashes of one file. Throws with the file system's code, or STOPPED. */
export async function hashInThread(task: HashTask): Promise<string[]> {
  const outcome = await threads.run<HashOutcome>('hash', task);
  if ('values' in outcome) return outcome.values;
  throw Object.assign(new Error(outcome.text), { code: outcome.code });
}
