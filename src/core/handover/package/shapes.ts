import * as z from 'zod';
import { CheckReport } from '../../custody';
import { PathBelow, ShownPath } from '../../platform/names';
import { Form, List, Media } from './form';
import { ClipSet } from './set';

/** What is to be handed over: which clips, put together how, to whom, and into which folder of which root. */
export const NewPackage = z.object({
  set: ClipSet,
  form: Form,
  /** Whom it is for; empty where nobody said. */
  to: z.string().trim().max(120),
  root: z.string().min(1).max(64),
  folder: PathBelow.refine((p) => p !== '', 'a folder is needed').refine(
    (p) => p.length <= 200,
    'a folder has up to 200 characters',
  ),
});
export type NewPackage = z.infer<typeof NewPackage>;

/** A remark on a clip: what does not go, or goes in place of something else. */
export const RemarkView = z.object({ name: ShownPath, card: z.string(), what: Media, why: z.string() });
export type RemarkView = z.infer<typeof RemarkView>;

/** How many of what goes to a place are new there, have changed since they were sent, stand there as they are, and belong to it no more. */
const Counts = z.object({ fresh: z.int(), changed: z.int(), same: z.int(), left: z.int() });

/** What would be done, before anything is. */
export const PackagePlan = z.object({
  name: z.string(),
  clips: z.int(),
  media: z.array(z.object({ what: Media, files: z.int(), bytes: z.number() })),
  lists: z.array(List),
  counts: Counts,
  /** Of what is to be copied. */
  files: z.int(),
  bytes: z.number(),
  /** Bytes free at the place; null where it is not there. */
  free: z.number().nullable(),
  /** As long as it took before for so many bytes; null where nothing is known. */
  seconds: z.number().nullable(),
  place: ShownPath,
  remarks: z.array(RemarkView),
  moreRemarks: z.int(),
  /** How many files have to be made for it first, and how many are being made. */
  toMake: z.int(),
  making: z.int(),
  /** Why it cannot be begun, and what to do; null where it can. */
  fault: z.string().nullable(),
});
export type PackagePlan = z.infer<typeof PackagePlan>;

export const SendingState = z.enum(['queued', 'running', 'paused', 'waiting', 'done', 'partly', 'cancelled']);
export type SendingState = z.infer<typeof SendingState>;
export const SENDING_WORDS: Record<SendingState, string> = {
  queued: 'waits for its turn',
  running: 'copying',
  paused: 'paused',
  waiting: 'waits for its drive',
  done: 'handed over',
  partly: 'not all of it',
  cancelled: 'cancelled',
};

/** One time that a package was sent. */
export const SendingView = z.object({
  number: z.int(),
  who: z.string(),
  state: SendingState,
  fault: z.string().nullable(),
  counts: Counts,
  bytes: z.number(),
  queuedAt: z.string(),
  endedAt: z.string().nullable(),
});
export type SendingView = z.infer<typeof SendingView>;

export const PackageName = z.object({
  id: z.string(),
  name: z.string(),
  to: z.string(),
  form: z.string(),
  /** Of the last sending. */
  state: SendingState,
  fault: z.string().nullable(),
  sentAt: z.string(),
});
export type PackageName = z.infer<typeof PackageName>;

/** A package as its page shows it. */
export const PackageView = PackageName.omit({ form: true }).extend({
  wanted: NewPackage,
  place: ShownPath,
  rootName: z.string(),
  files: z.int(),
  bytes: z.number(),
  verified: z.int(),
  verifiedBytes: z.number(),
  failed: z.int(),
  /** By which each file was verified. */
  hash: z.string(),
  /** Of the last sending. */
  remarks: z.array(RemarkView),
  moreRemarks: z.int(),
  /** The last first. */
  sendings: z.array(SendingView),
  check: CheckReport.nullable(),
  /** Failed ones first; at most 500. */
  list: z.array(
    z.object({
      place: ShownPath,
      size: z.number(),
      state: z.enum(['waiting', 'verified', 'failed', 'left']),
      hash: z.string().nullable(),
      fault: z.string().nullable(),
    }),
  ),
});
export type PackageView = z.infer<typeof PackageView>;

export const PackageAction = z.object({
  action: z.enum(['pause', 'resume', 'cancel', 'retry', 'again', 'check']),
});
export type PackageAction = z.infer<typeof PackageAction>;

/** Forms that are always there, and kept ones. */
export const FormsView = z.array(z.object({ id: z.string(), ready: z.boolean(), form: Form }));
export type FormsView = z.infer<typeof FormsView>;
