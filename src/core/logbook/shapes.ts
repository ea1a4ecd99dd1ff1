import * as z from 'zod';
import { PlanState } from '../naming';

export const LogKind = z.enum([
  'job',
  'takeIn',
  'copy',
  'check',
  'name',
  'undo',
  'proxy',
  'pair',
  'recovery',
  'root',
  'facts',
  'choose',
  'edit',
  'handover',
]);
export type LogKind = z.infer<typeof LogKind>;

export const LogEntry = z.object({
  id: z.string(),
  at: z.string(),
  who: z.string(),
  kind: LogKind,
  text: z.string(),
  planId: z.string().nullable(),
  undoable: z.boolean(),
  planState: PlanState.nullable(),
  steps: z.int(),
});
export type LogEntry = z.infer<typeof LogEntry>;

/** Characters of words that are looked for, at most. */
export const MOST_WORDS = 200;

/** Which entries are wanted: those older than `before`, which is the id of one. */
export const LogQuery = z.object({
  kind: LogKind.optional(),
  words: z.string().max(MOST_WORDS).optional(),
  before: z.string().max(100).optional(),
});

export const LogPage = z.object({
  entries: z.array(LogEntry),
  /** Kinds there are any entries of, whichever are wanted. */
  kinds: z.array(LogKind),
  /** The last entry, where there are older ones. */
  older: z.string().nullable(),
});
export type LogPage = z.infer<typeof LogPage>;
