import { drizzle } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { messageOf, Refused, Unreachable } from '../errors';
import { type Database, locksBy, migrationsFolder, PLANNING, type OpenDatabase } from './client';
import { inlined, type TextRow } from './texts';

/** The lock that the one Sort Shelf which works with the database holds, and the number of the one that is held while its tables are brought up to date. */
const OWNED = 'sort-shelf';
const MIGRATING = 7_104_002;
/** Connections at once. */
const MAX_CONNECTIONS = 8;
/** SQLSTATE of a server too old to be known here. */
const MIN_VERSION = 150_000;

/** Whole numbers of 64 bits come as numbers, as the embedded database gives them: ours are well inside what a double holds. */
const types = new pg.TypeOverrides();
types.setTypeParser(pg.types.builtins.INT8, Number);
const asTexts: pg.CustomTypesConfig = { getTypeParser: () => String };

/** Throws Refused where a database holds tables that are not Sort Shelf's: DATABASE_URL is what many programs call theirs. */
async function refuseForeign(client: pg.PoolClient, said: string): Promise<void> {
  const { rows } = await client.query<{ foreign: string | null }>(
    `select min(table_name) as foreign from information_schema.tables
     where table_schema = 'public' and to_regclass('public.physical_cards') is null`,
  );
  const foreign = rows[0]?.foreign;
  if (foreign)
    throw new Refused(`The database at ${said} holds tables of another program (${foreign}).`, {
      next: 'Give Sort Shelf an empty database of its own.',
    });
}

/** An address without its password, for what is said of it. */
export function shownUrl(url: string): string {
  const said = URL.canParse(url) ? new URL(url) : null;
  return said ? `${said.protocol}//${said.host}${said.pathname}` : 'DATABASE_URL';
}

/**
 * Opens the database of a PostgreSQL server, 15 or newer, and brings its tables up to date. Throws Refused where another Sort Shelf
 * works with it (but for a worker `beside` that one), or it cannot be reached. Keeping it safe from a power cut, and copies of it, are the server's.
 */
export async function openServer(url: string, { beside = false } = {}): Promise<OpenDatabase> {
  const said = shownUrl(url);
  const pool = new pg.Pool({
    connectionString: url,
    max: MAX_CONNECTIONS,
    types,
    application_name: 'sort-shelf',
    options: `-c ${PLANNING}`,
  });
  // A connection that breaks while nobody uses it is opened anew.
  pool.on('error', (e) => console.error('database:', messageOf(e)));
  const unreachable = (e: unknown) =>
    new Unreachable(`The database at ${said} cannot be reached: ${messageOf(e)}.`, {
      next: 'Check DATABASE_URL, and whether the server runs.',
    });
  const owner = await pool.connect().catch(async (e: unknown) => {
    await pool.end();
    throw unreachable(e);
  });
  // With its connection the lock goes, and another may have taken it: nothing is asked of the database any more.
  owner.on('error', (e) => {
    console.error(
      `The connection to the database at ${said} broke: ${messageOf(e)}. Start Sort Shelf again.`,
    );
    void pool.end().catch(() => undefined);
  });
  const close = async (): Promise<void> => {
    owner.release(true);
    await pool.end().catch(() => undefined);
  };
  try {
    const { rows } = await owner.query<{ number: string; version: string }>(
      `select current_setting('server_version_num') as number, current_setting('server_version') as version`,
    );
    const server = rows[0]!;
    const locks = locksBy((text, values) => owner.query(text, values));
    if (!beside && !(await locks.take(OWNED)))
      throw new Refused(`Another Sort Shelf works with the database at ${said}.`, {
        next: 'Stop it first, or give this one a database of its own.',
      });
    if (Number(server.number) < MIN_VERSION)
      throw new Refused(`The database at ${said} is PostgreSQL ${server.version}.`, {
        next: 'Sort Shelf needs version 15 or newer.',
      });
    await refuseForeign(owner, said);
    await owner.query(`select pg_advisory_lock(${MIGRATING})`);
    await migrate(drizzle(owner, { casing: 'snake_case' }), { migrationsFolder: migrationsFolder() });
    await owner.query(`select pg_advisory_unlock(${MIGRATING})`);
    return {
      // The same queries, and of raw ones the same rows: what use cases ask for is common to both.
      db: drizzle(pool, { casing: 'snake_case' }) as unknown as Database,
      embedded: null,
      version: `PostgreSQL ${server.version}`,
      async query(text, values) {
        const result = await pool.query<Record<string, unknown>>(text, values);
        const last = Array.isArray(result) ? (result as (typeof result)[]).at(-1) : result;
        return { rows: last?.rows ?? [] };
      },
      texts: async (query) =>
        (await pool.query<TextRow>({ text: inlined(query), rowMode: 'array', types: asTexts })).rows,
      locks,
      close,
      abandon: close,
    };
  } catch (e) {
    await close();
    throw e;
  }
}
