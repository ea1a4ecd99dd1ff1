import { PGlite } from '@electric-sql/pglite';
import type { SQL } from 'drizzle-orm';
import { drizzle, type PgliteDatabase } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import { execa } from 'execa';
import { mkdir, namesIn, readFile } from '../files/onDisk';
import { joinPath } from '../files/names';
import { copiedRows, inlined, type TextRow } from './texts';

/** The database as use cases see it, whether it is embedded or a server's. */
export type Database = PgliteDatabase;

export interface Locks {
  /** Whether it is held now by this process; false where another holds it. */
  take(name: string): Promise<boolean>;
  leave(name: string): Promise<void>;
}

/** Locks of a session that lasts as long as the database is open. */
export const locksBy = (query: (text: string, values: unknown[]) => Promise<{ rows: unknown[] }>): Locks => ({
  async take(name) {
    const { rows } = await query('select pg_try_advisory_lock(hashtextextended($1, 0)) as mine', [name]);
    return (rows[0] as { mine: boolean }).mine;
  },
  async leave(name) {
    await query('select pg_advisory_unlock(hashtextextended($1, 0))', [name]);
  },
});

export interface OpenDatabase {
  db: Database;
  version: string;
  /** The embedded engine; null where the database is a server's. */
  embedded: PGlite | null;
  /** Runs SQL as it is: one statement with its values, or several without. Resolves with the rows of the last. */
  query(text: string, values?: unknown[]): Promise<{ rows: unknown[] }>;
  /**
   * Rows of a query as texts, column by column. Of very many rows the embedded engine gives them several times as fast as it gives rows of
   * values.
   */
  texts(query: SQL): Promise<TextRow[]>;
  /** Locks by name, held until they are left, or as long as this process lives and has its connection. */
  locks: Locks;
  close(): Promise<void>;
  /** Closes one that turned out not to be sound: the next start looks at it again. */
  abandon(): Promise<void>;
}

/** Where the migrations stand, below the program. */
export const migrationsFolder = (): string => joinPath(process.cwd(), 'src/server/platform/db/migrations');

/** What is in memory, or on a disk without arms, is as quickly read here and there as in a row. */
export const PLANNING = 'random_page_cost=1.1';

/** Whether a database would be made in `folder` from nothing. */
const isNew = async (folder?: string): Promise<boolean> =>
  folder === undefined || (await namesIn(folder).catch(() => [])).length === 0;

/** Counts what is in Sort Shelf's tables, for the planner. Those of the system, which are most, hardly change. */
async function analyze(engine: PGlite): Promise<void> {
  const { rows } = await engine.query<{ tables: string | null }>(
    "select string_agg(format('%I', relname), ', ') as tables from pg_stat_user_tables where schemaname = 'public'",
  );
  if (rows[0]?.tables) await engine.exec(`analyze ${rows[0].tables}`);
}

const asText = (value: string): string => value;
/**
 * Types that Drizzle takes as PostgreSQL writes them: dates, timestamps, intervals, and arrays of those and of numerics. It says so with every
 * query, and the engine then makes a table of its three hundred types anew, for as long as a small query takes. It is told once instead.
 */
const AS_TEXT = Object.fromEntries(
  [1082, 1114, 1184, 1186, 1115, 1182, 1185, 1187, 1231].map((t) => [t, asText]),
);
/** For whoever else asks: pg-boss takes dates as dates. */
const AS_DATES = {
  parsers: Object.fromEntries([1082, 1114, 1184].map((t) => [t, (value: string) => new Date(value)])),
};

/** An engine that knows how Drizzle takes its types, or a transaction of one, for Drizzle. */
const told = <T extends Pick<PGlite, 'query'>>(engine: T): T =>
  new Proxy(engine, {
    get(of, name) {
      const value: unknown = Reflect.get(of, name, of);
      if (name === 'query')
        return (...[text, values, options]: Parameters<PGlite['query']>) =>
          of.query(text, values, options && { ...options, parsers: undefined });
      if (name === 'transaction')
        return (work: (tx: unknown) => unknown) =>
          (value as PGlite['transaction']).call(of, (tx) => Promise.resolve(work(told(tx))));
      return typeof value === 'function' ? (value.bind(of) as unknown) : value;
    },
  });

/** Opens the embedded database in `folder` (in memory where it is absent), from a dump of it where one is given, and brings its tables up to date. */
export async function openDatabase(folder?: string, dump?: Blob): Promise<OpenDatabase> {
  const fresh = !dump && (await isNew(folder));
  // Tests, which begin hundreds, keep an empty one in an archive: making one from nothing takes several times as long as unpacking it.
  const empty = fresh ? process.env.SORT_SHELF_EMPTY_DATABASE : undefined;
  if (folder && empty) {
    await mkdir(folder);
    await execa('tar', ['-xf', empty, '-C', folder]);
  }
  const from = dump ?? (!folder && empty ? new Blob([new Uint8Array(await readFile(empty))]) : undefined);
  const engine = await PGlite.create({
    ...(folder ? { dataDir: folder } : {}),
    ...(from ? { loadDataDir: from } : {}),
  });
  try {
    await migrate(drizzle(engine, { casing: 'snake_case' }), { migrationsFolder: migrationsFolder() });
    await engine.exec(`set ${PLANNING}`);
    // Nobody else counts what is in the tables; without that, a card's clips are looked for among all of the job's.
    if (!fresh) await analyze(engine).catch(() => undefined);
    return await databaseOf(engine);
  } catch (e) {
    await engine.close().catch(() => undefined);
    throw e;
  }
}

/** What is asked of an embedded engine that is open. */
export async function databaseOf(engine: PGlite): Promise<OpenDatabase> {
  const { rows } = await engine.query<{ server_version: string }>('show server_version');
  Object.assign(engine.parsers, AS_TEXT);
  return {
    db: drizzle(told(engine), { casing: 'snake_case' }),
    embedded: engine,
    version: `PostgreSQL ${rows[0]?.server_version ?? ''}, embedded`,
    query: async (text, values) =>
      values && values.length > 0
        ? await engine.query(text, values, AS_DATES)
        : ((await engine.exec(text, AS_DATES)).at(-1) ?? { rows: [] }),
    async texts(query) {
      const { blob } = await engine.query(`copy (${inlined(query)}) to '/dev/blob'`);
      return copiedRows((await blob?.text()) ?? '');
    },
    locks: locksBy((text, values) => engine.query(text, values)),
    close: () => engine.close(),
    abandon: () => engine.close(),
  };
}
