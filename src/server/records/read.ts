import { fork } from 'node:child_process';
import { getHeapStatistics } from 'node:v8';
import { Header, Mark, type Row } from '../../core/records/replay';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import { openPlain } from '../platform/files/plainFile';
import type { RecordFile } from './replayed';

/** What the process that reads records says: rows of a table, page by page, and then what else the file holds, or what is wrong with it. */
export type Told =
  { table: string; rows: Row[] } | { ended: Pick<RecordFile, 'header' | 'mark'> | null } | { fault: string };

export const readingLimits = {
  /** MiB of the heap of the process that reads records. What it gives has to fit beside what is here. */
  memory: Math.floor(getHeapStatistics().heap_size_limit / 2 ** 21),
  /** Milliseconds that it may take for a file of no bytes. */
  least: 60_000,
};
/** Bytes of a file for each millisecond more: 4 MB a second. */
const SLOWEST = 4096;

/**
 * Reads a file of records, which may have come with anybody's folder, in a process of its own: a single line may ask for more memory than there
 * is, which ends a process and not only its thread. `null` where nothing in it counts; throws where it is damaged before its last mark,
 * naming the line, where it is more than there is memory for, and where it takes very long.
 */
export async function readRecords(file: string): Promise<RecordFile | null> {
  const { size } = await lstat(file);
  const reader = fork(joinPath(process.cwd(), '.cache/threads/records.mjs'), {
    execArgv: [`--max-old-space-size=${readingLimits.memory}`],
    serialization: 'advanced',
    stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    timeout: Math.ceil(readingLimits.least + size / SLOWEST),
    killSignal: 'SIGKILL',
  });
  try {
    return await heard(reader, file);
  } finally {
    reader.kill('SIGKILL');
  }
}

function heard(reader: ReturnType<typeof fork>, file: string): Promise<RecordFile | null> {
  const tables: RecordFile['tables'] = new Map();
  return new Promise((resolve, reject) => {
    reader.on('message', (told: Told) => {
      if ('fault' in told) reject(new Error(told.fault));
      else if ('ended' in told) resolve(told.ended && { file, ...told.ended, tables });
      else {
        const rows = tables.get(told.table);
        if (rows) rows.push(...told.rows);
        else tables.set(told.table, told.rows);
      }
    });
    reader.on('error', reject);
    reader.once('exit', (_, signal) => {
      const why = signal === 'SIGKILL' ? 'it takes too long to read' : 'it is more than there is memory for';
      // What it said before that is heard first.
      if (reader.connected) reader.once('disconnect', () => reject(new Error(why)));
      else reject(new Error(why));
    });
    reader.send(file);
  });
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
