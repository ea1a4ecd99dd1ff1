import { pgTable, text } from 'drizzle-orm/pg-core';
import { Analysis } from '../../core/analysis';
import { clips } from '../cards/tables';
import { at, shaped } from '../platform/db/columns';

/** What was seen of a clip's original when all of it was decoded once. */
export const analyses = pgTable('analyses', {
  clip: text()
    .primaryKey()
    .references(() => clips.id, { onDelete: 'cascade' }),
  /** The state of the original that was looked at. */
  of: text().notNull(),
  seen: shaped(Analysis).notNull(),
  at: at('at').notNull(),
});
