import { type SQL, sql } from 'drizzle-orm';
import type { PgColumn } from 'drizzle-orm/pg-core';

/**
 * Whether a column is one of these texts, however many: they are one value of the statement, which takes no more than 65 535.
 * For a list that a person's choice or a job's size may make long.
 */
export const among = (column: PgColumn, values: readonly string[]): SQL =>
  sql`${column} in (select jsonb_array_elements_text(${JSON.stringify(values)}::jsonb))`;
