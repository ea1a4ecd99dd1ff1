import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import { openDatabase, type OpenDatabase } from '../platform/db/client';
import { TABLES } from './tables';

let database: OpenDatabase;
beforeAll(async () => {
  database = await openDatabase();
});
afterAll(() => database.close());

/** What follows from the footage, from what is recorded, or from nothing that lasts. */
const LEFT_OUT = ['library', 'offload_files', 'readings', 'removed_rows', 'work'];

test('every table is recorded, or left out on purpose', async () => {
  const { rows } = await database.db.execute<{ name: string }>(
    sql`select table_name as name from information_schema.tables where table_schema = 'public'`,
  );
  expect(rows.map((r) => r.name).sort()).toEqual([...LEFT_OUT, ...TABLES.map((t) => t.name)].sort());
});

test('a row that is deleted is told, whichever table it is of; rows that go with it, too', async () => {
  const { rows } = await database.db.execute<{ name: string }>(
    sql`select event_object_table as name from information_schema.triggers where trigger_name = 'keep_removed'`,
  );
  const alone = TABLES.filter((t) => !t.grows && t.key.length === 1).map((t) => t.name);
  expect(rows.map((r) => r.name).sort()).toEqual([...alone].sort());
  await database.db.execute(sql`insert into cameras (letter) values ('B')`);
  await database.db.execute(sql`insert into days values (1, null)`);
  await database.db.execute(sql`insert into roots values ('r', 'source', 'Reader', '/r')`);
  await database.db.execute(
    sql`insert into cards (id, camera, day, shape, root, folder, aside, taken_at) values ('B001', 'B', 1, 'plain', 'r', 'B001', '[]', now())`,
  );
  await database.db.execute(
    sql`insert into clips (id, card, original, state, statements, audio) values ('c1', 'B001', 'T1', 'read', '[]', '[]'), ('c2', 'B001', 'T2', 'read', '[]', '[]')`,
  );
  await database.db.execute(
    sql`insert into files (id, clip, role, root, path, suffix, size, modified) values ('f1', 'c1', 'original', 'r', 'B001/T1.MP4', '', 10, 1)`,
  );
  await database.db.execute(sql`delete from clips`);
  const told = await database.db.execute(sql`select kind, key from removed_rows order by kind, key`);
  expect(told.rows).toEqual([
    { kind: 'clips', key: ['c1'] },
    { kind: 'clips', key: ['c2'] },
    { kind: 'files', key: ['f1'] },
  ]);
});
