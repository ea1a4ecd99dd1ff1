import { pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import type { NextStep } from '../../core/next';
import { clips } from '../cards/tables';

/** What is still to happen with clips by itself; a step that was done goes. */
export const nextSteps = pgTable(
  'next_steps',
  {
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    step: text().$type<NextStep>().notNull(),
    state: text().$type<'waiting' | 'stopped'>().notNull().default('waiting'),
    /** Why it stopped; null while it waits. */
    why: text(),
  },
  (t) => [primaryKey({ columns: [t.clip, t.step] })],
);
