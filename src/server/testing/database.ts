import type { PGlite } from '@electric-sql/pglite';
import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { databaseOf, openDatabase, type OpenDatabase, PLANNING } from '../platform/db/client';
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

/** An engine in memory, and the rows it began with: those of the queue; null where the queue has yet to make its tables, and it serves once. */
interface Engine {
  engine: PGlite;
  began: string | null;
}
/** Those that tests of this file are done with, and what closes them. */
const idle: (Engine & { closing: NodeJS.Timeout })[] = [];
/** Milliseconds in which the next test has begun; an engine that is open has timers, and no process ends before those. */
const NEXT = 500;

/** What the queue keeps of itself, and what of that stays as it is. */
const KEPT = { 'pgboss.queue': 'name, partition_name', 'pgboss.version': 'version' };
/** Tables that rows were written to, be they gone again. */
const WRITTEN = `
  select format('%I.%I', n.nspname, c.relname) as name from pg_class c join pg_namespace n on n.oid = c.relnamespace
  where c.relkind = 'r' and n.nspname in ('public', 'pgboss') and pg_relation_size(c.oid) > 0`;

async function writtenIn(engine: PGlite): Promise<{ kept: string; others: string[] }> {
  const { rows } = await engine.query<{ name: string }>(WRITTEN);
  const kept = await Promise.all(
    Object.entries(KEPT).map(([name, columns]) => engine.query(`select ${columns} from ${name} order by 1`)),
  );
  return {
    kept: JSON.stringify(kept.map((k) => k.rows)),
    others: rows.map((r) => r.name).filter((name) => !(name in KEPT)),
  };
}

async function begin(): Promise<Engine> {
  const { embedded } = await openDatabase();
  // Without the dump that `makeEmptyDatabase.ts` makes, as in a soak.
  const { rows } = await embedded!.query<{ at: string | null }>(`select to_regclass('pgboss.queue') as at`);
  if (rows[0]!.at === null) return { engine: embedded!, began: null };
  const { kept, others } = await writtenIn(embedded!);
  if (others.length > 0) throw new Error(`${others.join(', ')}: a new database is not empty`);
  return { engine: embedded!, began: kept };
}

/** Empties an engine for the next test; one that cannot be is closed. */
async function giveBack(given: Engine): Promise<void> {
  const { engine, began } = given;
  if (began === null) return engine.close();
  await engine.exec('discard all');
  const { kept, others } = await writtenIn(engine);
  if (kept !== began) return engine.close();
  if (others.length > 0) await engine.exec(`truncate ${others.join(', ')} restart identity cascade`);
  await engine.exec(`set ${PLANNING}`);
  const closing = setTimeout(() => {
    idle.splice(
      idle.findIndex((i) => i.engine === engine),
      1,
    );
    void engine.close();
  }, NEXT);
  idle.push({ ...given, closing });
}

/**
 * An empty database in memory. Emptying an engine costs less than opening one, so that the next test is given the engine of one that is
 * closed; whoever still asks that one is refused, as by a closed engine.
 */
export async function databaseInMemory(): Promise<OpenDatabase> {
  const waiting = idle.pop();
  clearTimeout(waiting?.closing);
  const given = waiting ?? (await begin());
  let closed = false;
  const lent = new Proxy(given.engine, {
    get(engine, name) {
      if (closed) throw new Error('The database of this test is closed.');
      const value: unknown = Reflect.get(engine, name, engine);
      return typeof value === 'function' ? (value.bind(engine) as unknown) : value;
    },
  });
  const close = async () => {
    if (closed) return;
    closed = true;
    await giveBack(given).catch(() => given.engine.close());
  };
  return { ...(await databaseOf(lent)), close, abandon: close };
}
