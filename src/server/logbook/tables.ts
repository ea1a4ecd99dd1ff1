import { index, pgTable, text } from 'drizzle-orm/pg-core';
import type { LogKind } from '../../core/logbook';
import { jobs } from '../jobs/tables';
import { at } from '../platform/db/columns';

export const log = pgTable(
  'log',
  {
    id: text().primaryKey(),
    /** The job it was done in; null for what concerns all of them. */
    job: text().references(() => jobs.id),
    at: at('at').notNull(),
    who: text().notNull(),
    kind: text().$type<LogKind>().notNull(),
    text: text().notNull(),
    plan: text(),
  },
  (t) => [index('log_at').on(t.job, t.at)],
);
