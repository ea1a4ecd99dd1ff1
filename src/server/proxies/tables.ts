import { index, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import type { PairCheck } from '../../core/proxies';
import { clips, files } from '../cards/tables';
import { at } from '../platform/db/columns';

export const pairs = pgTable(
  'pairs',
  {
    file: text()
      .primaryKey()
      .references(() => files.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    state: text().$type<'proven' | 'unproven' | 'mismatched'>().notNull(),
    checks: jsonb().$type<PairCheck[]>().notNull(),
    /** What is otherwise in a proxy made here than in its original, in words. */
    changes: jsonb().$type<string[]>().notNull().default([]),
    checkedAt: at('checked_at').notNull(),
  },
  (t) => [index('pairs_clip').on(t.clip)],
);
