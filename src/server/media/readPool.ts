import type { ContainerSays } from '../../core/facts/container';
import { Unreadable } from '../errors';
import { Threads } from '../threads';
import type { ContainerOptions } from './container';

/** Files are read in threads: what a damaged file makes a reader do never holds up the interface, and can be ended. */
export const READERS = 2;
/** A header is read in milliseconds; one that takes this long is damage, or a drive that has gone. Milliseconds; shorter in tests. */
export const readLimits = { milliseconds: 20_000 };

type Answer = { says: ContainerSays | null } | { fault: { code?: string; message: string } };

const threads = new Threads('src/server/media/readThread.mjs', READERS);

export const warmReaders = (): Promise<void> => threads.warm();
export const endReaders = (): Promise<void> => threads.end();

/** Reads files in one thread, one after another; `null` for formats that only ffprobe reads. A thread that hangs is ended, and its files say so. */
export async function readContainers(files: readonly string[], options: ContainerOptions): Promise<(ContainerSays | null | Error)[]> {
  try {
    const answers = await threads.run<Answer[]>('read', { files, options }, readLimits.milliseconds + 200 * files.length);
    return answers.map((a, i) => ('says' in a ? a.says : Object.assign(new Unreadable(a.fault.message, { file: files[i]! }), { code: a.fault.code })));
  } catch (e) {
    const slow = e instanceof Error && e.name === 'AbortError';
    if (files.length > 1) return (await Promise.all(files.map((f) => readContainers([f], options)))).map(([a]) => a!);
    return [new Unreadable(slow ? `it took longer than ${readLimits.milliseconds / 1000} s to read` : `its reader failed: ${e instanceof Error ? e.message : String(e)}`, { file: files[0]! })];
  }
}
