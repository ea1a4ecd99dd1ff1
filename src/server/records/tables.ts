import { bigserial, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import { at } from '../platform/db/columns';

/** This database among others: its records beside the footage are told apart by it. One row. */
export const library = pgTable('library', {
  id: text().primaryKey(),
  madeAt: at('made_at').notNull(),
  /** Every run of the server it was opened in: a record of another run is of a later state of it. */
  runs: jsonb().$type<string[]>().notNull().default([]),
  /** The record it was rebuilt from: one of the same database that goes further knows more. */
  rebuiltFrom: jsonb().$type<{ library: string; upTo: number }>(),
});

/** Rows that were deleted or given another key, kept by triggers (migration 0004) for the records beside the footage. */
export const removedRows = pgTable('removed_rows', {
  seq: bigserial({ mode: 'number' }).primaryKey(),
  kind: text().notNull(),
  key: jsonb().$type<(string | number)[]>().notNull(),
});
