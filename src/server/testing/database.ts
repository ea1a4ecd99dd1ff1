import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { openServer } from '../platform/db/server';

// Where tests keep their databases: embedded, or on the PostgreSQL server that SORT_SHELF_TEST_SERVER gives the address of, as one
// who may make databases there.

const TEMPLATE = 'sort_shelf_template';
/** Held while the template is made. */
const MAKING = 7_104_003;

const named = (server: string, database: string): string =>
  Object.assign(new URL(server), { pathname: `/${database}` }).href;

async function withServer<T>(server: string, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: server });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** An empty database with its tables on the tests' server, and the way to drop it; null where tests run on the embedded one. */
export async function testDatabase(): Promise<{ databaseUrl: string; drop(): Promise<void> } | null> {
  const server = process.env.SORT_SHELF_TEST_SERVER;
  if (!server) return null;
  const name = `shelf_${randomUUID().replaceAll('-', '')}`;
  await withServer(server, async (client) => {
    await client.query(`select pg_advisory_lock(${MAKING})`);
    const { rowCount } = await client.query('select from pg_database where datname = $1', [TEMPLATE]);
    if (rowCount === 0) {
      await client.query(`create database ${TEMPLATE}`);
      await (await openServer(named(server, TEMPLATE))).close();
    }
    await client.query(`create database ${name} template ${TEMPLATE}`);
    await client.query(`select pg_advisory_unlock(${MAKING})`);
  });
  return {
    databaseUrl: named(server, name),
    drop: () =>
      withServer(server, async (client) => void (await client.query(`drop database ${name} with (force)`))),
  };
}
