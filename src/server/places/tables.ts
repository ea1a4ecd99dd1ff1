import { pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import type { RootKind } from '../../core/places';

export const roots = pgTable('roots', {
  id: text().primaryKey(),
  kind: text().$type<RootKind>().notNull(),
  name: text().notNull(),
  /** Where it was when it was added, on the computer it was added on. */
  path: text().notNull(),
  /** Identity of its volume, and the folder below where that begins; null for a folder that is known by its place. */
  volume: text(),
  within: text(),
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
