import { sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { type Header, type Mark, NOT_YET, RECORDS_VERSION } from '../../core/records/replay';
import type { DiskPath } from '../../core/platform/names';
import { library } from './tables';
import { joinPath } from '../platform/files/names';
import { mkdir, open, rm } from '../platform/files/onDisk';
import type { InJob, Ports } from './ports';
import { requireJob } from '../jobs';
import { OF_CARDS, type Source, TABLES } from './recorded';
import { changedSince, goneSince, linesOf, quoted } from './writer';

type Reads = Pick<Ports['db'], 'execute' | 'select'>;

const folderIn = (home: DiskPath): DiskPath => joinPath(home, 'cache', 'exports');

/** The lines of a job, in the form of the records: everything that is recorded of it, and what it shares with others. */
class JobLines {
  readonly #grown: Mark['grown'] = {};
  #since = 0;
  #cards: string[] = [];

  constructor(
    private readonly db: Reads,
    private readonly job: string,
  ) {}

  /** All of it, page by page, while others change it: what they change comes with `changes`. */
  async *all(): AsyncGenerator<string> {
    const [known] = await this.db.select({ id: library.id }).from(library);
    yield `${JSON.stringify({ records: RECORDS_VERSION, library: known!.id, root: null } satisfies Header)}\n`;
    const { rows } = await this.db.execute<{ since: number }>(
      sql`select (pg_snapshot_xmin(pg_current_snapshot())::text::bigint - 1)::float8 as since`,
    );
    this.#since = rows[0]!.since;
    this.#cards = await this.#cardsOf(this.db);
    for (const table of TABLES) yield* linesOf(this.db, table, this.#isOf(table), this.#grown);
    yield this.#mark(NOT_YET);
  }

  /** What has changed since `all` began, read in one transaction: with it, everything is as it is at one moment. */
  async *changes(tx: Reads): AsyncGenerator<string> {
    yield* goneSince(tx, this.#since);
    const cards = await this.#cardsOf(tx);
    const left = this.#cards.filter((c) => !cards.includes(c));
    if (left.length > 0) yield `${JSON.stringify({ table: 'physical_cards', gone: left.map((c) => [c]) })}\n`;
    const came = cards.filter((c) => !this.#cards.includes(c)).map(quoted);
    for (const table of TABLES) {
      const changed = changedSince(table, this.#since, this.#grown);
      const by = table.byCard && came.length > 0 ? ` or t.${table.byCard} in (${came.join(', ')})` : '';
      yield* linesOf(tx, table, `${this.#isOf(table)} and (${changed}${by})`, this.#grown);
    }
    yield this.#mark(0);
  }

  async #cardsOf(db: Reads): Promise<string[]> {
    const { rows } = await db.execute<{ id: string }>(
      sql.raw(`select physical as id from ${this.#ofJob(OF_CARDS)} c`),
    );
    return rows.map((r) => r.id);
  }
  #ofJob(condition: string): string {
    return condition.replaceAll('$job', quoted(this.job));
  }
  #isOf(table: Source): string {
    return this.#ofJob(table.ofJob ?? 't.job = $job');
  }
  #mark(upTo: number): string {
    const mark: Mark = {
      upTo,
      at: new Date().toISOString(),
      grown: this.#grown,
      base: 0,
      version: RECORDS_VERSION,
    };
    return `${JSON.stringify(mark)}\n`;
  }
}

/**
 * Writes a job to one file, as it is at one moment, and resolves with its place in the cache; whoever asked for it removes it. Most of it is
 * read beside everything else that is asked of the database, which does one thing at a time where it is embedded.
 */
export async function exportJob(runtime: InJob): Promise<DiskPath> {
  const { id } = await requireJob(runtime);
  const folder = folderIn(runtime.home);
  await mkdir(folder);
  const file = joinPath(folder, `${randomUUID()}.jsonl`);
  const handle = await open(file, 'wx');
  try {
    const lines = new JobLines(runtime.db, id);
    for await (const line of lines.all()) await handle.appendFile(line);
    await runtime.db.transaction(
      async (tx) => {
        for await (const line of lines.changes(tx)) await handle.appendFile(line);
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
