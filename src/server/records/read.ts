import { createInterface } from 'node:readline';
import { Header, Mark, Replay, type Row } from '../../core/records/replay';
import { messageOf } from '../platform/errors';
import { lstat } from '../platform/files/onDisk';
import { openPlain } from '../platform/files/plainFile';
import { TABLES } from './recorded';

/** A file of records, put together. */
export interface RecordFile {
  file: string;
  header: Header;
  mark: Mark;
  tables: Map<string, Row[]>;
}

/** Reads a file of records. `null` where nothing in it counts; throws where it is damaged before its last mark, naming the line. */
export async function readRecords(file: string): Promise<RecordFile | null> {
  const replay = new Replay(TABLES);
  const damaged = (n: number, e: unknown) => new Error(`line ${n} cannot be read: ${messageOf(e)}`);
  let fault: { n: number; e: unknown } | null = null;
  let n = 0;
  const handle = await openPlain(file);
  // Closed with its stream, however that ends.
  for await (const line of createInterface({
    input: handle.createReadStream({ encoding: 'utf8' }),
    crlfDelay: Infinity,
  })) {
    n++;
    // Only the end of a file may be torn: what follows a line that cannot be read would miss what that line said.
    if (fault) throw damaged(fault.n, fault.e);
    try {
      if (line !== '') replay.line(line);
    } catch (e) {
      fault = { n, e };
    }
  }
  return replay.header && replay.mark
    ? { file, header: replay.header, mark: replay.mark, tables: replay.tables() }
    : null;
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
