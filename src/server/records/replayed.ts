import { type Header, type Mark, Replay, type Row } from '../../core/records/replay';
import { messageOf } from '../platform/errors';
import { linesIn } from '../platform/files/lines';
import { openPlain } from '../platform/files/plainFile';
import { TABLES } from './recorded';

/** A file of records, put together. */
export interface RecordFile {
  file: string;
  header: Header;
  mark: Mark;
  tables: Map<string, Row[]>;
}

/** Reads a file of records, in the thread that calls it. `null` where nothing in it counts; throws where it is damaged before its last mark, naming the line. */
export async function replayed(file: string): Promise<RecordFile | null> {
  const replay = new Replay(TABLES);
  const damaged = (n: number, e: unknown) => new Error(`line ${n} cannot be read: ${messageOf(e)}`);
  let fault: { n: number; e: unknown } | null = null;
  let n = 0;
  for await (const line of linesIn(await openPlain(file))) {
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
