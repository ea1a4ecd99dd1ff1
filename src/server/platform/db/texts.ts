import type { SQL } from 'drizzle-orm';
import { PgDialect } from 'drizzle-orm/pg-core';

/** A row whose values are as PostgreSQL writes them; null where they are. */
export type TextRow = (string | null)[];

const dialect = new PgDialect({ casing: 'snake_case' });

/** A query with its values in it, as COPY takes it. */
export const inlined = (query: SQL): string => dialect.sqlToQuery(query.inlineParams()).sql;

const ESCAPED: Record<string, string> = { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t', v: '\v' };

const valueOf = (text: string): string | null =>
  text === '\\N'
    ? null
    : text.includes('\\')
      ? text.replace(/\\(.)/gsu, (_, c: string) => ESCAPED[c] ?? c)
      : text;

/** What COPY writes: a line a row, a tab between values (PostgreSQL manual, COPY, "Text Format"; from memory). */
export const copiedRows = (text: string): TextRow[] =>
  text === ''
    ? []
    : text
        .slice(0, -1)
        .split('\n')
        .map((line) => line.split('\t').map(valueOf));
