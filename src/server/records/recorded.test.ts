import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import { openDatabase, type OpenDatabase } from '../platform/db/client';
import { type Source, TABLES } from './recorded';

let database: OpenDatabase;
beforeAll(async () => {
  database = await openDatabase();
});
afterAll(() => database.close());

/**
 * What follows from the footage, from what is recorded, or from nothing that lasts; what is said of a clip is recorded with it. Timelines are
 * read again from their files.
 */
const LEFT_OUT = [
  'analyses',
  'edit_uses',
  'edits',
  'facts',
  'library',
  'mounts',
  'offload_files',
  'readings',
  'removed_rows',
  'said',
  'shown',
  'sound_checks',
  'watch_finds',
  'work',
];

test('every table is recorded, or left out on purpose', async () => {
  const { rows } = await database.db.execute<{ name: string }>(
    sql`select table_name as name from information_schema.tables where table_schema = 'public'`,
  );
  expect(rows.map((r) => r.name).sort()).toEqual([...LEFT_OUT, ...TABLES.map((t) => t.name)].sort());
});

test('a row that is deleted is told, whichever table it is of; rows that go with it, too', async () => {
  const { rows } = await database.db.execute<{ name: string; told: string }>(
    sql`select event_object_table as name, action_statement as told from information_schema.triggers where trigger_name = 'keep_removed' order by 1`,
  );
  // Rows of a key that grows, or that begins with another's, go with that other.
  const BESIDE = ['card_files', 'places', 'steps', 'sendings', 'package_files'];
  const alone = TABLES.filter((t) => !t.grows && !BESIDE.includes(t.name));
  const call = (t: Source) => `EXECUTE FUNCTION keep_removed(${t.key.map((k) => `'${k}'`).join(', ')})`;
  expect(rows).toEqual(
    [...alone].sort((a, b) => (a.name < b.name ? -1 : 1)).map((t) => ({ name: t.name, told: call(t) })),
  );
  await database.db.execute(
    sql`insert into jobs (id, name, code, begun_at, zone_minutes, convention, folder_plan) values ('j', 'Slack Water', 'SLW', now(), 0, '{}', '{}')`,
  );
  await database.db.execute(sql`insert into cameras (job, label) values ('j', 'B')`);
  await database.db.execute(sql`insert into days (job, number) values ('j', 1)`);
  await database.db.execute(sql`insert into roots values ('r', 'source', 'Reader', '/r')`);
  await database.db.execute(
    sql`insert into cards (job, id, camera, day, shape, root, folder, aside, taken_at) values ('j', 'B001', 'B', 1, 'plain', 'r', 'B001', '[]', now())`,
  );
  await database.db.execute(
    sql`insert into clips (id, job, card, original, state, audio) values ('c1', 'j', 'B001', 'T1', 'read', '[]'), ('c2', 'j', 'B001', 'T2', 'read', '[]')`,
  );
  await database.db.execute(
    sql`insert into files (id, clip, role, root, path, suffix, size, modified) values ('f1', 'c1', 'original', 'r', 'B001/T1.MP4', '', 10, 1)`,
  );
  await database.db.execute(sql`delete from clips`);
  await database.db.execute(sql`delete from cards`);
  const told = await database.db.execute(sql`select kind, key from removed_rows order by kind, key`);
  expect(told.rows).toEqual([
    { kind: 'cards', key: ['j', 'B001'] },
    { kind: 'clips', key: ['c1'] },
    { kind: 'clips', key: ['c2'] },
    { kind: 'files', key: ['f1'] },
  ]);
});

test('what a person says of a clip is recorded with it: its row has changed, too', async () => {
  const { db } = database;
  await db.execute(
    sql`insert into cards (job, id, camera, day, shape, root, folder, aside, taken_at) values ('j', 'B002', 'B', 1, 'plain', 'r', 'B002', '[]', now())`,
  );
  await db.execute(
    sql`insert into clips (id, job, card, original, state, audio) values ('c3', 'j', 'B002', 'T3', 'read', '[]'), ('c4', 'j', 'B002', 'T4', 'read', '[]')`,
  );
  const { row } = TABLES.find((t) => t.name === 'clips')!;
  const recorded = async () =>
    (
      await db.execute<{ id: string; by: string; row: { statements: unknown[] } }>(
        sql.raw(`select t.id, t.xmin::text as by, ${row!} as row from clips t order by 1`),
      )
    ).rows;
  const text = (t: string) => ({ type: 'text', text: t });
  for (const [change, statements] of [
    [
      `insert into said (clip, field, value) values ('c3', 'scene', '${JSON.stringify(text('12'))}')`,
      [{ field: 'scene', value: text('12'), source: 'person' }],
    ],
    [
      `update said set value = '${JSON.stringify(text('13'))}'`,
      [{ field: 'scene', value: text('13'), source: 'person' }],
    ],
    ['delete from said', []],
  ] as const) {
    const before = await recorded();
    await db.execute(sql.raw(change));
    const after = await recorded();
    expect(after[0]!.row.statements).toEqual(statements);
    expect([after[0]!.by === before[0]!.by, after[1]!.by === before[1]!.by]).toEqual([false, true]);
  }
});
