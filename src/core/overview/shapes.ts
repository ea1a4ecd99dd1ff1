import * as z from 'zod';
import { PlatformEvent } from '../platform/shapes';
import { ShownPath } from '../platform/names';
import { CardView } from '../cards';
import { OffloadProgress } from '../offload';

export const Rolling = z.object({
  clip: z.string(),
  name: ShownPath,
  camera: z.string(),
  day: z.int(),
  from: z.number(),
  to: z.number(),
});
export type Rolling = z.infer<typeof Rolling>;
export const WallView = z.object({ cards: z.array(CardView), rolling: z.array(Rolling) });
export type WallView = z.infer<typeof WallView>;

/** What arrives by server-sent events. */
export const ServerEvent = z.discriminatedUnion('type', [
  ...PlatformEvent.options,
  z.object({ type: z.literal('copying'), copies: z.array(OffloadProgress) }),
]);
export type ServerEvent = z.infer<typeof ServerEvent>;
