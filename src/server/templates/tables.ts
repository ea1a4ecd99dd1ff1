import { pgTable, text } from 'drizzle-orm/pg-core';
import { Template } from '../../core/templates';
import { shaped } from '../platform/db/columns';

/** Templates kept in the library, for every job. */
export const templates = pgTable('templates', {
  id: text().primaryKey(),
  name: text().notNull().unique(),
  template: shaped(Template).notNull(),
});
