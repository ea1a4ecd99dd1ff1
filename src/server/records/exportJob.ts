import { type Header, type Mark, RECORDS_VERSION } from '../../core/records/replay';
import { library } from '../platform/db/schema';
import type { InJob } from '../runtime';
import { theJob } from '../jobs';
import { TABLES } from './tables';
import { linesOf } from './writer';

/** The lines of a job as one file, in the form of the records: everything that is recorded of it, and what it shares with others. */
export async function* exportJob(runtime: InJob): AsyncGenerator<string> {
  const { id } = await theJob(runtime);
  const [known] = await runtime.db.select({ id: library.id }).from(library);
  yield `${JSON.stringify({ records: RECORDS_VERSION, library: known!.id, root: null } satisfies Header)}\n`;
  const grown: Mark['grown'] = {};
  const job = `'${id.replaceAll("'", "''")}'`;
  for (const table of TABLES)
    yield* linesOf(runtime.db, table, (table.ofJob ?? 't.job = $job').replaceAll('$job', job), grown);
  const mark: Mark = { upTo: 0, at: new Date().toISOString(), grown, base: 0, version: RECORDS_VERSION };
  yield `${JSON.stringify(mark)}\n`;
}
