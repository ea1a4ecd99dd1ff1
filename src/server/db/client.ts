import { PGlite } from '@electric-sql/pglite';
import { drizzle, type PgliteDatabase } from 'drizzle-orm/pglite';
import { migrate } from 'drizzle-orm/pglite/migrator';
import * as schema from './schema';
import { joinPath } from '../files/names';

export type Database = PgliteDatabase<typeof schema>;

export interface OpenDatabase {
  db: Database;
  engine: PGlite;
  version: string;
  close(): Promise<void>;
  /** Closes one that turned out not to be sound: the next start looks at it again. */
  abandon(): Promise<void>;
}

/** Opens the database in `folder` (in memory where it is absent), from a dump of it where one is given, and brings its tables up to date. */
export async function openDatabase(folder?: string, dump?: Blob): Promise<OpenDatabase> {
  const engine = await PGlite.create({ ...(folder ? { dataDir: folder } : {}), ...(dump ? { loadDataDir: dump } : {}) });
  const db = drizzle(engine, { schema, casing: 'snake_case' });
  const rows = await migrate(db, { migrationsFolder: joinPath(process.cwd(), 'src/server/db/migrations') })
    .then(() => engine.query<{ server_version: string }>('show server_version'))
    .catch(async (e: unknown) => {
      await engine.close().catch(() => undefined);
      throw e;
    });
  return { db, engine, version: `PostgreSQL ${rows.rows[0]?.server_version ?? ''}, embedded`, close: () => engine.close(), abandon: () => engine.close() };
}
