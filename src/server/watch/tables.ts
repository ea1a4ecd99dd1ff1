import { boolean, index, pgTable, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { type WatchFind, WatchOptions } from '../../core/watch';
import { ofJob } from '../jobs/tables';
import { roots } from '../places/tables';
import { at, shaped } from '../platform/db/columns';

/** Folders whose new footage is taken in. */
export const watches = pgTable(
  'watches',
  {
    id: text().primaryKey(),
    job: ofJob(),
    root: text()
      .notNull()
      .references(() => roots.id),
    path: text().notNull(),
    options: shaped(WatchOptions).notNull(),
  },
  (t) => [uniqueIndex('watches_folder').on(t.job, t.root, t.path)],
);

/** What was found in them. */
export const watchFinds = pgTable(
  'watch_finds',
  {
    id: text().primaryKey(),
    watch: text()
      .notNull()
      .references(() => watches.id, { onDelete: 'cascade' }),
    at: at('at').notNull(),
    kind: text().$type<WatchFind['kind']>().notNull(),
    text: text().notNull(),
    read: boolean().notNull().default(false),
  },
  (t) => [index('watch_finds_watch').on(t.watch, t.read)],
);
