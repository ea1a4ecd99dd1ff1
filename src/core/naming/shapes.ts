import { z } from 'zod';
import { Convention, FolderPlan } from './convention';
import { ShownPath } from '../platform/names';
import { Step } from './plan';
import { ShownPlace } from '../places';

/** `doing` was begun and, seen at a start, was interrupted; `partly` left some clips where they were. */
export const PlanState = z.enum(['doing', 'done', 'partly', 'undone']);
export type PlanState = z.infer<typeof PlanState>;
export const StepState = z.enum(['waiting', 'doing', 'done', 'reverted', 'failed']);
export type StepState = z.infer<typeof StepState>;

export const NamingRequest = z.object({
  convention: Convention,
  folderPlan: FolderPlan,
  /** Cards whose clips are to be named; empty for all. */
  cards: z.array(z.string()).max(2000),
  /** Clips left out of the plan. */
  without: z.array(z.string()).max(100_000),
});
export type NamingRequest = z.infer<typeof NamingRequest>;

export const NamingRow = z.object({
  clipId: z.string(),
  original: ShownPath,
  current: ShownPath,
  extension: z.string(),
  card: z.string(),
  day: z.int(),
  parts: z.array(z.object({ blockId: z.string(), text: z.string() })),
  stem: z.string(),
  folder: z.string(),
  files: z.int(),
  steps: z.int(),
  out: z.boolean(),
  problems: z.array(z.object({ level: z.enum(['stop', 'look']), code: z.string(), text: z.string() })),
});
export type NamingRow = z.infer<typeof NamingRow>;

export const NamingPreview = z.object({
  rows: z.array(NamingRow),
  steps: z.int(),
  clips: z.int(),
  copies: z.int(),
  copyBytes: z.number(),
  stops: z.int(),
  looks: z.int(),
  /** The shelf as it would stand: folder, clips in it, whether this plan changes it. */
  shelf: z.array(z.object({ folder: z.string(), clips: z.int(), changed: z.boolean() })),
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
export const PlanDetail = z.object({
  id: z.string(),
  state: PlanState,
  steps: z.array(
    Step.extend({ from: ShownPlace, to: ShownPlace, state: StepState, fault: z.string().nullable() }),
  ),
});
export type PlanDetail = z.infer<typeof PlanDetail>;
