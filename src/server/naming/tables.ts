import { integer, pgTable, text, uniqueIndex } from 'drizzle-orm/pg-core';
import type { PlanState, StepKind, StepState } from '../../core/naming';
import { ofJob } from '../jobs/tables';
import { at, whole } from '../platform/db/columns';

export const plans = pgTable('plans', {
  id: text().primaryKey(),
  job: ofJob(),
  kind: text().$type<'name' | 'undo'>().notNull(),
  state: text().$type<PlanState>().notNull(),
  /** The plan this one takes back. */
  undoes: text(),
  madeAt: at('made_at').notNull(),
  endedAt: at('ended_at'),
});
export const steps = pgTable(
  'steps',
  {
    plan: text()
      .notNull()
      .references(() => plans.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    clip: text().notNull(),
    file: text().notNull(),
    kind: text().$type<StepKind>().notNull(),
    fromRoot: text().notNull(),
    fromPath: text().notNull(),
    toRoot: text().notNull(),
    toPath: text().notNull(),
    size: whole().notNull(),
    modified: whole().notNull(),
    state: text().$type<StepState>().notNull(),
    fault: text(),
  },
  (t) => [uniqueIndex('steps_number').on(t.plan, t.number)],
);
