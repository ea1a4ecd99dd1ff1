import { getHeapStatistics } from 'node:v8';
import { Header, Mark } from '../../core/records/replay';
import { isCode } from '../platform/errors';
import { lstat } from '../platform/files/onDisk';
import { openPlain } from '../platform/files/plainFile';
import { Threads } from '../platform/threads';
import type { RecordFile } from './replayed';

/** What the thread that reads records may use: MiB of its heap. What it gives has to fit beside what is here. */
export const readingLimits = { memory: Math.floor(getHeapStatistics().heap_size_limit / 2 ** 21) };
let thread: Threads | null = null;

/**
 * Reads a file of records, which may have come with anybody's folder, in a thread of its own. `null` where nothing in it counts; throws where
 * it is damaged before its last mark, naming the line, and where it is more than there is memory for.
 */
export async function readRecords(file: string): Promise<RecordFile | null> {
  thread ??= new Threads('.cache/threads/records.mjs', 1, readingLimits.memory);
  try {
    return await thread.run('replayed', file);
  } catch (e) {
    const full = isCode(e, 'ERR_WORKER_OUT_OF_MEMORY');
    throw new Error(full ? 'it is more than there is memory for' : (e as Error).message, { cause: e });
  }
}

export async function endReading(): Promise<void> {
  const ended = thread;
  thread = null;
  await ended?.end();
}

/** Most bytes of the first line of a file of records. */
const FIRST_LINE = 1024;

/** What a file of records says of itself in its first line. Throws where the file is not there or begins with anything else. */
export async function headerOf(file: string): Promise<Header> {
  const handle = await openPlain(file);
  try {
    const { bytesRead, buffer } = await handle.read(Buffer.alloc(FIRST_LINE), 0, FIRST_LINE, 0);
    return Header.parse(JSON.parse(buffer.toString('utf8', 0, bytesRead).split('\n')[0]!));
  } finally {
    await handle.close();
  }
}

/** Bytes at the end of a file among which its last mark is looked for. */
const TAIL = 4096;

/** The last mark of a file of records. Throws where the file is not there or ends in anything else. */
export async function lastMark(file: string): Promise<Mark> {
  const handle = await openPlain(file);
  try {
    const { size } = await handle.stat();
    const { bytesRead, buffer } = await handle.read(Buffer.alloc(TAIL), 0, TAIL, Math.max(0, size - TAIL));
    const tail = buffer.toString('utf8', 0, bytesRead);
    return Mark.parse(JSON.parse(tail.endsWith('\n') ? tail.slice(0, -1).split('\n').at(-1)! : ''));
  } finally {
    await handle.close();
  }
}

/** The last mark of a file that may be torn at its end; `null` where the file is not there, or none of it can be read. */
export const markOf = (file: string): Promise<Mark | null> =>
  lastMark(file).catch(async () => {
    if (
      !(await lstat(file).then(
        (s) => s.isFile(),
        () => false,
      ))
    )
      return null;
    return readRecords(file).then(
      (r) => r?.mark ?? null,
      () => null,
    );
  });
