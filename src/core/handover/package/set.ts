import * as z from 'zod';

/** Clips that are handed over together, as they are when it is done. */
export const ClipSet = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('job') }),
  z.object({ kind: z.literal('day'), day: z.int().min(1).max(9999) }),
  z.object({ kind: z.literal('card'), card: z.string().min(1).max(64) }),
  z.object({ kind: z.literal('bin'), bin: z.string().min(1).max(64) }),
  z.object({ kind: z.literal('search'), query: z.string().trim().min(1).max(2000) }),
  z.object({ kind: z.literal('stringOut'), list: z.string().min(1).max(64) }),
  z.object({ kind: z.literal('edit'), edit: z.string().min(1).max(64) }),
]);
export type ClipSet = z.infer<typeof ClipSet>;
