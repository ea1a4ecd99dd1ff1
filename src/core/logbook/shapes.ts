import { z } from 'zod';
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
