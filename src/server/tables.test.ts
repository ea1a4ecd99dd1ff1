import { expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';

// Rows are joined across rooms; who writes to a table is its room, and who is here.
const ALSO: Record<string, readonly string[]> = {
  // What a job begins with, what is taken in and forgotten, and what a reading or a correction finds out of it.
  cameras: ['facts', 'intake', 'jobs'],
  cards: ['facts', 'intake'],
  clips: ['facts', 'intake'],
  days: ['facts', 'intake'],
  // Taken in; and rebuilt from records, of which that room knows all tables.
  files: ['intake', 'records'],
  offloadFiles: ['records'],
  offloads: ['records'],
  plans: ['records'],
  roots: ['records'],
  steps: ['records'],
  // A job that is removed.
  work: ['removal.ts'],
};

const HERE = 'src/server';
const sources = (readdirSync(HERE, { recursive: true }) as string[])
  .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts') && !f.startsWith('testing/'))
  .map((f) => ({ room: f.split('/')[0]!, file: f, text: readFileSync(path.join(HERE, f), 'utf8') }));

/** Tables by the name they have in code, with their room and their name in the database. */
const tables = new Map(
  sources
    .filter((s) => path.basename(s.file) === 'tables.ts')
    .flatMap((s) =>
      [...s.text.matchAll(/export const (\w+) = pgTable\(\s*'(\w+)'/g)].map(
        (m) => [m[1]!, { room: s.room, sql: m[2]! }] as const,
      ),
    ),
);

/** Tables that a source writes to, as drizzle or SQL say it. */
const writtenBy = (text: string): string[] =>
  [...tables].flatMap(([name, { sql }]) => {
    const own = `\\.(?:insert|update|delete)\\(${name}\\)`;
    const raw = `(?:insert into|update|delete from) (?:\\$\\{${name}\\}|"?${sql}"?(?![\\w$]))`;
    return new RegExp(`${own}|${raw}`).test(text) ? [name] : [];
  });

test('every table has a room, and is written to by that room and by those that are named', () => {
  expect(tables.size).toBeGreaterThan(25);
  const found: Record<string, string[]> = {};
  for (const { room, text } of sources)
    for (const name of writtenBy(text))
      if (tables.get(name)!.room !== room) found[name] = [...new Set([...(found[name] ?? []), room])].sort();
  expect(found).toEqual(ALSO);
});

test('the rule finds what it is to find', () => {
  expect(writtenBy('await tx.update(clips).set({})')).toEqual(['clips']);
  expect(writtenBy('sql`update ${files} set a = 1`; sql`insert into copy_readings (a)`')).toEqual([
    'files',
    'copyReadings',
  ]);
  expect(writtenBy('db.select().from(clips)')).toEqual([]);
});
