import { boolean, index, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { type Followed, type PairCheck, type Part, type Proof, Recipe } from '../../core/proxies';
import { clips, files } from '../cards/tables';
import { at, shaped } from '../platform/db/columns';

export const pairs = pgTable(
  'pairs',
  {
    file: text()
      .primaryKey()
      .references(() => files.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    state: text().$type<Proof['state']>().notNull(),
    checks: jsonb().$type<PairCheck[]>().notNull(),
    /** What is otherwise in a proxy made here than in its original, in words. */
    changes: jsonb().$type<string[]>().notNull().default([]),
    checkedAt: at('checked_at').notNull(),
    /** How it was made; null of what a camera made, and of what was made before recipes were kept. */
    recipe: jsonb().$type<Followed>(),
    /** The states of its original and of itself when it was proven; it is proven anew once they are others. Null before this was kept. */
    of: text(),
    /** The part of its clip that it is, frames from 0; null of all of it. */
    part: jsonb().$type<Part>(),
    /** Whether it stands for the clip in the edit, as a person said. */
    stands: boolean().notNull().default(false),
  },
  (t) => [index('pairs_clip').on(t.clip)],
);

/** A recipe kept in the library, for every job. */
export const recipes = pgTable('recipes', {
  id: text().primaryKey(),
  name: text().notNull().unique(),
  recipe: shaped(Recipe).notNull(),
});
