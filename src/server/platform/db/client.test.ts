import { expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import { pgTable, date, interval, numeric, timestamp } from 'drizzle-orm/pg-core';
import { databaseInMemory } from '../../testing/database';

const kinds = pgTable('kinds', {
  at: timestamp({ withTimezone: true }).notNull(),
  written: timestamp({ mode: 'string' }).notNull(),
  day: date().notNull(),
  long: interval().notNull(),
  sizes: numeric().array().notNull(),
});

test('the embedded engine gives Drizzle its types as it wants them, in transactions too, and dates to others', async () => {
  const database = await databaseInMemory();
  const { db } = database;
  try {
    await database.query(
      'create table kinds (at timestamptz, written timestamp, day date, long interval, sizes numeric[])',
    );
    const row = {
      at: new Date('2026-05-06T14:22:05.120Z'),
      written: '2026-05-06 14:22:05',
      day: '2026-05-06',
      long: '01:02:03',
      sizes: ['1.50', '2'],
    };
    await db.insert(kinds).values(row);
    expect(await db.select().from(kinds)).toEqual([row]);
    await db.transaction(async (tx) => {
      expect(await tx.select().from(kinds)).toEqual([row]);
      await tx.transaction(async (inner) => {
        expect(await inner.select({ at: kinds.at }).from(kinds)).toEqual([{ at: row.at }]);
      });
    });
    expect((await db.execute(sql`select day from kinds`)).rows).toEqual([{ day: '2026-05-06' }]);
    await expect(
      db.transaction(async (tx) => {
        await tx.delete(kinds);
        throw new Error('taken back');
      }),
    ).rejects.toThrow('taken back');
    expect(await db.select().from(kinds)).toHaveLength(1);
    const plain = { rows: [{ at: row.at, day: new Date('2026-05-06') }] };
    expect(await database.query('select at, day from kinds')).toMatchObject(plain);
    expect(await database.query('select at, day from kinds where day < $1', ['2027-01-01'])).toMatchObject(
      plain,
    );
  } finally {
    await database.query('drop table kinds');
    await database.close();
  }
});
