import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { getTableColumns, sql } from 'drizzle-orm';
import { boolean, doublePrecision, integer, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { testShelf, type TestShelf } from '../../testing/media';
import { bulk } from './bulk';
import { at, whole, written } from './columns';

const odd = pgTable('odd_rows', {
  id: integer().primaryKey(),
  words: text(),
  flag: boolean(),
  bytes: whole(),
  number: doublePrecision(),
  list: jsonb().$type<unknown[]>(),
  brief: written<{ a: string | null }>(),
  when: at('when'),
});

let s: TestShelf;
beforeAll(async () => {
  s = await testShelf();
  await s.runtime.database.query(
    `create table odd_rows (id int primary key, words text, flag boolean, bytes bigint, number float8, list jsonb, brief text, "when" timestamptz)`,
  );
});
afterAll(async () => {
  await s.runtime.database.query('drop table odd_rows');
  await s.close();
});

test('rows of very many are those that are asked for one by one, whatever is in them', async () => {
  const { db, database } = s.runtime;
  const words = ['', 'a\tb\nc\r', '\\N', '\\', '"', 'Écluse 💾', '{"x": 1}', '\u0001', null];
  await db.insert(odd).values(
    words.map((w, id) => ({
      ...{ id, words: w, flag: [true, false, null][id % 3], bytes: id === 0 ? null : 2 ** 52 + id },
      ...{ number: [0.1, -1e-300, Infinity, null][id % 4], list: w === null ? null : [w, id, { w: [w] }] },
      ...{ brief: w === null ? null : { a: w }, when: w === null ? null : new Date(1_778_000_000_123 + id) },
    })),
  );
  const { id: _, ...some } = { id: odd.id, when: odd.when, words: odd.words };
  const inOrder = db.select().from(odd).orderBy(odd.id);
  expect(await bulk(database, getTableColumns(odd), inOrder)).toEqual(await inOrder);
  const part = db
    .select(some)
    .from(odd)
    .where(sql`words is not null`)
    .orderBy(odd.id);
  expect(await bulk(database, some, part)).toEqual(await part);
  expect(
    await bulk(
      database,
      some,
      db
        .select(some)
        .from(odd)
        .where(sql`false`),
    ),
  ).toEqual([]);
});
