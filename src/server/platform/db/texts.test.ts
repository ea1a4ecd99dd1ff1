import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import { testDatabase } from '../../testing/database';
import { openDatabase, type OpenDatabase } from './client';
import { openServer } from './server';

let opened: OpenDatabase;
let given: Awaited<ReturnType<typeof testDatabase>>;
beforeAll(async () => {
  given = await testDatabase();
  opened = given ? await openServer(given.databaseUrl) : await openDatabase();
});
afterAll(async () => {
  await opened.close();
  await given?.drop();
});

test('values come as they are, whatever is in them', async () => {
  const odd = ['a\tb', 'a\nb', 'a\\b', '\\N', "it's", '', '\b\f\r\v', 'é\u{1f3ac}', '$1', 'a"b'];
  for (const text of odd)
    expect(await opened.texts(sql`select ${text}::text, 5::bigint, null::text`)).toEqual([[text, '5', null]]);
  const together = await opened.texts(
    sql`select v from unnest(array[${sql.join(
      odd.map((o) => sql`${o}`),
      sql`, `,
    )}]::text[]) with ordinality t(v, n) order by n`,
  );
  expect(together.flat()).toEqual(odd);
});

test('no rows are none; a query that is wrong is refused', async () => {
  expect(await opened.texts(sql`select 1 where false`)).toEqual([]);
  await expect(opened.texts(sql`select nothing`)).rejects.toThrow('nothing');
});
