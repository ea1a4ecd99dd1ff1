import * as z from 'zod';

// What crosses to and from the stand-ins of the demonstration.

/** What a slot or a drive does wrong. */
export const Faults = z.object({
  /** Bytes a second at most; null for as fast as it goes. */
  slow: z.number().positive().nullable().default(null),
  /** Reading fails in the middle of the file whose name contains this, so many times. */
  failRead: z
    .object({ file: z.string().min(1), times: z.int().min(1).max(1000) })
    .nullable()
    .default(null),
  /** The first reading of the file whose name contains this gives one wrong byte. */
  flip: z
    .object({ file: z.string().min(1) })
    .nullable()
    .default(null),
  /** A drive holds so many bytes; null for as many as its volume. */
  capacity: z.number().positive().nullable().default(null),
  /** The physical disk a drive is a part of; null for one of its own. */
  disk: z.string().nullable().default(null),
  /** The volume that is connected in the drive's place; null for its own. */
  volume: z.string().nullable().default(null),
});
export type Faults = z.infer<typeof Faults>;

export const StandInAction = z.discriminatedUnion('action', [
  z.object({ action: z.literal('plug'), slot: z.string(), card: z.string() }),
  z.object({ action: z.literal('pull'), slot: z.string() }),
  z.object({ action: z.literal('faults'), of: z.string(), faults: Faults }),
]);
export type StandInAction = z.infer<typeof StandInAction>;

/** What is plugged in, what lies in the drawer, and what each stand-in is told to do wrong. */
export const StandInsView = z.object({
  slots: z.array(
    z.object({ name: z.string(), path: z.string(), card: z.string().nullable(), faults: Faults }),
  ),
  drawer: z.array(z.string()),
  drives: z.array(z.object({ name: z.string(), path: z.string(), faults: Faults })),
});
export type StandInsView = z.infer<typeof StandInsView>;
