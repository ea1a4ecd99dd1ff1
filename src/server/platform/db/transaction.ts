import type { Database } from './client';

/** A transaction, or the database outside of one. */
export type Writer = Pick<
  Database,
  'select' | 'selectDistinct' | 'insert' | 'update' | 'delete' | 'execute' | '$count'
>;
