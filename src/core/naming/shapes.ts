import * as z from 'zod';
import { ClipKind, FileRole } from '../intake';
import { NewOffload } from '../offload';
import { ShownPath } from '../platform/names';
import { Rate } from '../platform/timecode/rate';
import { ShownPlace } from '../places';
import { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, FolderPlan, NamingMore } from './convention';
import { Place, Step } from './plan';

/** `doing` was begun and, seen at a start, was interrupted; `partly` left some clips where they were. */
export const PlanState = z.enum(['doing', 'done', 'partly', 'undone']);
export type PlanState = z.infer<typeof PlanState>;
export const StepState = z.enum(['waiting', 'doing', 'done', 'reverted', 'failed']);
export type StepState = z.infer<typeof StepState>;

export const NamingRequest = z.object({
  convention: Convention,
  folderPlan: FolderPlan,
  ...NamingMore.shape,
  /** Cards whose clips are to be named, and clips chosen one by one; all where both are empty. */
  cards: z.array(z.string()).max(2000),
  clips: z.array(z.string()).max(100_000).default([]),
  /** Clips left out of the plan. */
  without: z.array(z.string()).max(100_000),
});
export type NamingRequest = z.infer<typeof NamingRequest>;

/** A request for all clips by the convention of a new job, but for what is given. */
export const namingRequest = (given: Partial<NamingRequest> = {}): NamingRequest => ({
  convention: DEFAULT_CONVENTION,
  folderPlan: DEFAULT_FOLDER_PLAN,
  rules: [],
  systems: [],
  cards: [],
  clips: [],
  without: [],
  ...given,
});

const Problem = z.object({
  level: z.enum(['stop', 'look']),
  code: z.string(),
  text: z.string(),
  mend: z.string().optional(),
});

/** A clip as the bench is given it: what its name is made of, and its files. */
export const NamingDataClip = z.object({
  id: z.string(),
  job: z.string(),
  kind: ClipKind,
  day: z.int().nullable(),
  date: z.string().nullable(),
  camera: z.string(),
  cameraName: z.string().nullable(),
  card: z.string(),
  rate: Rate.nullable(),
  size: z.tuple([z.int(), z.int()]).nullable(),
  original: z.string(),
  recordedAt: z.string().nullable(),
  startSeconds: z.number().nullable(),
  facts: z.record(z.string(), z.string()),
  keywords: z.array(z.object({ name: z.string(), group: z.string() })).readonly(),
  current: z.string(),
  extension: z.string(),
  /** Why it is left out of every plan for now, in sentences; empty where it is not. */
  held: z.array(z.string()),
  /** Files of its stem beside it that belong to no clip. */
  beside: z.array(z.string()),
  files: z.array(
    z.object({
      id: z.string(),
      role: FileRole,
      place: Place,
      suffix: z.string(),
      size: z.number(),
      modified: z.number(),
      /** The one folder of its root that it stays in, wherever its clip goes; absent where it goes with it. */
      folder: z.string().optional(),
    }),
  ),
});

/** Everything a plan is made of but what is on the disk at its targets. */
export const NamingData = z.object({
  clips: z.array(NamingDataClip),
  roots: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      movable: z.boolean(),

      volume: z.string(),
    }),
  ),
  shelf: z.string(),
  given: z.array(z.object({ clipId: z.string(), series: z.string(), number: z.int(), letter: z.string() })),
  /** Clips that were on a card and were not taken in, by the camera's name. */
  notTaken: z.array(z.object({ card: z.string(), name: z.string() })),
});
export type NamingData = z.infer<typeof NamingData>;

/** A clip of which a file is not as it was read, and what is wrong with it. */
export const ChangedClip = z.object({ clip: z.string(), text: z.string() });
export type ChangedClip = z.infer<typeof ChangedClip>;

/** Ticked clips of a card that is not copied yet, and what the card will be in the job. */
export const Coming = NewOffload.pick({
  root: true,
  path: true,
  folder: true,
  camera: true,
  cardId: true,
  day: true,
  date: true,
  clips: true,
  singles: true,
});
export type Coming = z.infer<typeof Coming>;
export const ComingRequest = Coming.extend({ fields: z.array(z.string()).max(200) });
/** They as the bench takes them, and of how many what they state is read so far. */
export const ComingClips = z.object({ clips: z.array(NamingDataClip), read: z.int(), of: z.int() });
export type ComingClips = z.infer<typeof ComingClips>;

export const NamingRow = z.object({
  clipId: z.string(),
  original: ShownPath,
  current: ShownPath,
  extension: z.string(),
  card: z.string(),
  camera: z.string(),
  day: z.int(),
  /** The rule it takes, "" for the job's own convention. */
  rule: z.string(),
  facts: z.record(z.string(), z.string()),
  parts: z.array(z.object({ blockId: z.string(), before: z.string(), text: z.string() })),
  stem: z.string(),
  folder: z.string(),
  files: z.int(),
  steps: z.int(),
  out: z.boolean(),
  problems: z.array(Problem),
});
export type NamingRow = z.infer<typeof NamingRow>;

/** Folders whose names on the disk are asked for. */
export const StandingQuery = z.object({
  folders: z.array(z.object({ root: z.string(), folder: z.string().max(4096) })).max(20_000),
});

/** A plan in figures. */
export const NamingSummary = z.object({
  /** Clips that were asked about; of them those that get another name or place, and those that have theirs already. */
  total: z.int(),
  clips: z.int(),
  right: z.int(),
  steps: z.int(),
  copies: z.int(),
  copyBytes: z.number(),
  links: z.int(),
  stops: z.int(),
  looks: z.int(),
  /** The shelf as it would stand: folder, clips in it now and then, whether this plan changes it, and the one day, camera and card its clips are of. */
  shelf: z.array(
    z.object({
      folder: z.string(),
      clips: z.int(),
      before: z.int(),
      changed: z.boolean(),
      day: z.int().nullable(),
      camera: z.string().nullable(),
      card: z.string().nullable(),
    }),
  ),
  /** Rates the job's clips have, as they are written. */
  rates: z.array(z.string()),
  /** Numbers that no clip has. */
  gaps: z.array(
    z.object({
      series: z.string(),
      number: z.int(),
      reason: z.enum(['notTaken', 'removed', 'missing', 'leftOut']),
    }),
  ),
});
export type NamingSummary = z.infer<typeof NamingSummary>;
export const NamingPreview = NamingSummary.extend({
  rows: z.array(NamingRow),
  /** Changes whenever the plan's steps change: what is applied is what was shown. */
  fingerprint: z.string(),
});
export type NamingPreview = z.infer<typeof NamingPreview>;

export const ApplyRequest = NamingRequest.extend({ fingerprint: z.string() });

export const PlanResult = z.object({
  planId: z.string(),
  state: PlanState,
  done: z.int(),
  failed: z.array(z.object({ file: ShownPath, fault: z.string() })),
});
export type PlanResult = z.infer<typeof PlanResult>;
/** Whose changes of a plan are taken back: chosen clips', or all that can be where none is named. */
export const UndoRequest = z.object({ clips: z.array(z.string()).max(100_000).default([]) });
export type UndoRequest = z.infer<typeof UndoRequest>;

/** Whether a clip's change can be taken back; `renamed` by a later plan, `gone` from the job, or `undone` already. */
export const WayBack = z.enum(['open', 'renamed', 'gone', 'undone']);
export type WayBack = z.infer<typeof WayBack>;

export const PlanDetail = z.object({
  id: z.string(),
  state: PlanState,
  /** Its clips in the order of its steps. */
  clips: z.array(z.object({ id: z.string(), original: ShownPath, back: WayBack })),
  steps: z.array(
    Step.extend({ from: ShownPlace, to: ShownPlace, state: StepState, fault: z.string().nullable() }),
  ),
});
export type PlanDetail = z.infer<typeof PlanDetail>;
