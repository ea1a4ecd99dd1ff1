import * as z from 'zod';
import { CameraLabel } from '../platform/cameraLabel';
import { PathBelow, ShownPath } from '../platform/names';
import { NextSteps } from '../next';
import { patternFault } from './pattern';
import { Verification } from './verification';
import { ChosenHash } from '../hashLists';

/**
 * `waiting` is the card or a drive pulled out; `paused` the person's wish or a drive that cannot take more; `naming` that all is
 * verified and the shelf's clips get their names; `partly` that some files failed and the rest is verified.
 */
export const OffloadState = z.enum([
  'queued',
  'running',
  'paused',
  'waiting',
  'naming',
  'done',
  'partly',
  'cancelled',
]);
export type OffloadState = z.infer<typeof OffloadState>;

/** States of a copy that is not at its end. */
export const UNDER_WAY = [
  'queued',
  'running',
  'paused',
  'waiting',
  'naming',
] as const satisfies readonly OffloadState[];
export const isUnderWay = (state: OffloadState): boolean =>
  (UNDER_WAY as readonly OffloadState[]).includes(state);

export const OffloadDestination = z.object({
  root: z.string(),
  folder: z.string(),
  kind: z.enum(['safe', 'shelf']),
  /** Set where the person went on without it. */
  dropped: z.boolean().optional(),
});
export type OffloadDestination = z.infer<typeof OffloadDestination>;

/** Safe copies that are made of a card at once, at most. */
export const MOST_SAFE = 8;

/** A copy to be begun. */
export const NewOffload = z.object({
  root: z.string(),
  path: PathBelow,
  /** The card below that folder. */
  folder: PathBelow,
  camera: CameraLabel,
  cardId: z.string().regex(/^[A-Za-z0-9-]{1,16}$/, 'a card id is one to sixteen letters, digits or dashes'),
  day: z.int('a day is a whole number').min(1, 'days count from 1').max(999),
  date: z
    .string()
    .regex(/^\d{4}-\d\d-\d\d$/)
    .nullable(),
  /** Clips ticked, by the path of their original below the card; `null` for all. */
  clips: z.array(z.string()).max(100_000).nullable(),
  /** Whether safe copies take the whole card, or only what is ticked. */
  wholeCard: z.boolean(),
  /** Roots that get a safe copy. */
  safe: z.array(z.string()).max(MOST_SAFE, `at most ${MOST_SAFE} safe copies at once: untick some`),
  shelf: z.boolean(),
  pattern: z
    .string()
    .max(200)
    .refine((p) => patternFault(p) === null, { error: (i) => patternFault(String(i.input)) ?? '' }),
  verification: Verification,
  hash: ChosenHash,
  /** Stills of one number row that are to be single pictures, by the path of the row's first. */
  singles: z.array(z.string()).max(10_000).default([]),
  /** What is given to clips that are new to the job. They are named once they are copied, and get proxies as the job says. */
  next: NextSteps.pick({ keywords: true, bin: true }).optional(),
});
export type NewOffload = z.infer<typeof NewOffload>;

export const OffloadAction = z.object({
  action: z.enum(['pause', 'resume', 'cancel', 'drop', 'retry']),
  destination: z.int().min(0).max(8).optional(),
});
export type OffloadAction = z.infer<typeof OffloadAction>;

export const OffloadView = z.object({
  id: z.string(),
  card: z.string(),
  physical: z.string(),
  from: z.string(),
  state: OffloadState,
  verification: Verification,
  hash: ChosenHash,
  destinations: z.array(
    OffloadDestination.extend({
      rootName: z.string(),
      place: ShownPath,
      /** Whether it is offline; asked only of one copy that waits. */
      away: z.boolean().optional(),
    }),
  ),
  files: z.int(),
  bytes: z.number(),
  verified: z.int(),
  failed: z.int(),
  verifiedBytes: z.number(),
  fault: z.string().nullable(),
  speed: z.number().nullable(),
  startedAt: z.string().nullable(),
  endedAt: z.string().nullable(),
  cannot: z.array(z.object({ path: ShownPath, reason: z.string() })),
});
export type OffloadView = z.infer<typeof OffloadView>;

export const OffloadFileView = z.object({
  path: ShownPath,
  size: z.number(),
  state: z.enum(['waiting', 'verified', 'failed']),
  hash: z.string().nullable(),
  fault: z.string().nullable(),
  note: z.string().nullable(),
});
export const OffloadDetail = OffloadView.extend({
  /** Failed and noted ones first, then those under way; at most 500. */
  list: z.array(OffloadFileView),
  /** Bytes a second, one for every second since it was begun or resumed; at most 600. */
  rates: z.array(z.number()),
});
export type OffloadDetail = z.infer<typeof OffloadDetail>;

/** The progress of a running copy, sent while it runs. */
export const OffloadProgress = z.object({
  id: z.string(),
  /** The job it belongs to, by its id. */
  job: z.string(),
  state: OffloadState,
  bytes: z.number(),
  total: z.number(),
  files: z.int(),
  of: z.int(),
  current: ShownPath.nullable(),
  /** Bytes a second over the last seconds; null while unknown. */
  rate: z.number().nullable(),
  /** Seconds left; null while unknown. */
  left: z.number().nullable(),
});
export type OffloadProgress = z.infer<typeof OffloadProgress>;
