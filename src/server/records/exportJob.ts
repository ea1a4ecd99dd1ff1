import { randomUUID } from 'node:crypto';
import { type Header, type Mark, RECORDS_VERSION } from '../../core/records/replay';
import type { DiskPath } from '../../core/platform/names';
import { library } from './tables';
import { joinPath } from '../platform/files/names';
import { mkdir, open, rm } from '../platform/files/onDisk';
import type { InJob, Ports } from './ports';
import { requireJob } from '../jobs';
import { TABLES } from './recorded';
import { linesOf } from './writer';

const folderIn = (home: DiskPath): DiskPath => joinPath(home, 'cache', 'exports');

/** The lines of a job, in the form of the records: everything that is recorded of it, and what it shares with others. */
async function* linesOfJob(db: Pick<Ports['db'], 'execute' | 'select'>, id: string): AsyncGenerator<string> {
  const [known] = await db.select({ id: library.id }).from(library);
  yield `${JSON.stringify({ records: RECORDS_VERSION, library: known!.id, root: null } satisfies Header)}\n`;
  const grown: Mark['grown'] = {};
  const job = `'${id.replaceAll("'", "''")}'`;
  for (const table of TABLES)
    yield* linesOf(db, table, (table.ofJob ?? 't.job = $job').replaceAll('$job', job), grown);
  const mark: Mark = { upTo: 0, at: new Date().toISOString(), grown, base: 0, version: RECORDS_VERSION };
  yield `${JSON.stringify(mark)}\n`;
}

/** Writes a job to one file, as it is at one moment, and resolves with its place in the cache; whoever asked for it removes it. */
export async function exportJob(runtime: InJob): Promise<DiskPath> {
  const { id } = await requireJob(runtime);
  const folder = folderIn(runtime.home);
  await mkdir(folder);
  const file = joinPath(folder, `${randomUUID()}.jsonl`);
  const handle = await open(file, 'wx');
  try {
    await runtime.db.transaction(
      async (tx) => {
        for await (const line of linesOfJob(tx, id)) await handle.appendFile(line);
      },
      { isolationLevel: 'repeatable read', accessMode: 'read only' },
    );
    return file;
  } catch (e) {
    await rm(file, { force: true });
    throw e;
  } finally {
    await handle.close();
  }
}

/** Removes exports that nobody fetched before the server ended. */
export const clearLeftExports = ({ home }: Pick<Ports, 'home'>): Promise<void> =>
  rm(folderIn(home), { recursive: true, force: true });
