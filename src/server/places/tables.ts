import { pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import type { RootKind } from '../../core/places';

export const roots = pgTable('roots', {
  id: text().primaryKey(),
  kind: text().$type<RootKind>().notNull(),
  name: text().notNull(),
  /** Where it was when it was added, on the computer it was added on. */
  path: text().notNull(),
  /** Identity of its volume, where the system says it. */
  volume: text(),
  /** The folder below where its volume begins; null for a folder that is known by its place alone. */
  within: text(),
  /** The mark that it carries, by which it is known wherever it is; null where it carries none. */
  mark: text(),
});

/** Where roots are on each computer that works with this database. */
export const mounts = pgTable(
  'mounts',
  {
    host: text().notNull(),
    root: text()
      .notNull()
      .references(() => roots.id, { onDelete: 'cascade' }),
    path: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.host, t.root] })],
);
