import { z } from 'zod';
import { PairState, PairCheck } from './prove';
import { ShownPath } from '../platform/names';
import { WorkView } from '../platform/shapes';

export const PairView = z.object({
  state: PairState,
  checks: z.array(PairCheck),
  file: z.string().nullable(),
  made: z.boolean(),
  /** What is otherwise in a proxy made here than in its original, in words. */
  changes: z.array(z.string()),
});
export type PairView = z.infer<typeof PairView>;

export const ProxiesView = z.object({
  recipe: z.object({ id: z.string(), name: z.string() }),
  needs: z.array(
    z.object({
      clip: z.string(),
      name: ShownPath,
      card: z.string(),
      because: z.string(),
      rate: z.string(),
      seconds: z.number(),
    }),
  ),
  estimate: z.object({
    bytes: z.number(),
    seconds: z.number(),
    timesRealTime: z.number(),
    measured: z.boolean(),
  }),
  pairs: z.array(
    z.object({
      clip: z.string(),
      name: ShownPath,
      card: z.string(),
      state: PairState,
      made: z.boolean(),
      changes: z.array(z.string()),
      reason: z.string(),
      checks: z.array(PairCheck),
      checkedAt: z.string().nullable(),
    }),
  ),
  work: z.array(WorkView),
});
export type ProxiesView = z.infer<typeof ProxiesView>;
