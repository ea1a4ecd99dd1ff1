import { integer, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import { Convention, FolderPlan, type PlanState, type StepKind, type StepState } from '../../core/naming';
import { ofJob } from '../jobs/tables';
import { at, shaped, whole } from '../platform/db/columns';

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

/** Numbers that plans gave to clips: they count while the plan does, and are known when the clip is gone. */
export const numbers = pgTable(
  'numbers',
  {
    plan: text()
      .notNull()
      .references(() => plans.id, { onDelete: 'cascade' }),
    clip: text().notNull(),
    /** What was counted within, as `seriesOf` has it. */
    series: text().notNull(),
    number: integer().notNull(),
    letter: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.plan, t.clip, t.series] })],
);

/** A convention with its folder plan, kept in the library for every job. */
export const conventions = pgTable('conventions', {
  id: text().primaryKey(),
  name: text().notNull().unique(),
  convention: shaped(Convention).notNull(),
  folderPlan: shaped(FolderPlan).notNull(),
});
