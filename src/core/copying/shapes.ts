import { z } from 'zod';
import { PathBelow, ShownPath } from '../names';
import { CardShape } from '../cards/shape';
import { DiskIdentity } from '../custody/disks';
import { ChosenHash, HashKind } from '../exchange/hashes';
import { FIRST_PATTERN, patternFault } from './pattern';
import { Verification } from './verification';

/**
 * `waiting` is the card pulled out; `paused` the person's wish or a drive that cannot take more; `naming` that all is
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

export const FileType = z.enum(['video', 'still', 'raw', 'sound']);
export type FileType = z.infer<typeof FileType>;
export const FILE_TYPE_WORDS: Record<FileType, string> = {
  video: 'Video',
  still: 'Stills',
  raw: 'Camera raw stills',
  sound: 'Sound',
};

const extension = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[a-z0-9]{1,8}$/, 'an extension is one to eight letters or digits, without its dot');

/** How one folder is looked at. */
export const FolderRule = z.object({
  /** Look through the folders a camera makes on its card; off, every folder is taken as it is. */
  skipCardFolders: z.boolean().default(true),
  /** Shapes that are not tried here. */
  off: z.array(z.string()).max(100).default([]),
});
export type FolderRule = z.infer<typeof FolderRule>;

/** How cards are looked at and copied in this job. */
export const IntakeRules = z.object({
  /** Names of folders whose contents are left out. */
  leaveOut: z.array(z.string().trim().min(1).max(120)).max(200).default([]),
  types: z
    .object({
      video: z.array(extension),
      still: z.array(extension),
      raw: z.array(extension),
      sound: z.array(extension),
    })
    .default({
      video: ['mp4', 'mov', 'mxf', 'm4v', 'mts', 'm2ts', 'avi', 'mkv'],
      still: ['jpg', 'jpeg', 'png', 'tif', 'tiff', 'heic', 'exr', 'dpx'],
      raw: ['dng', 'raw'],
      sound: ['wav', 'bwf', 'w64'],
    }),
  /** The person's own shapes, tried before those that are shipped. */
  shapes: z.array(CardShape).max(100).default([]),
  /** By root and path of a folder. */
  folders: z.record(z.string(), FolderRule).default({}),
  pattern: z
    .string()
    .max(200)
    .refine((p) => patternFault(p) === null, { error: (i) => patternFault(String(i.input)) ?? '' })
    .default(FIRST_PATTERN),
  verification: Verification.default('contents'),
  hash: ChosenHash.default('xxh128'),
  /** Pictures per second that numbered stills are shown at. */
  stillsRate: z.int().min(1).max(120).default(25),
});
export type IntakeRules = z.infer<typeof IntakeRules>;
export const FIRST_INTAKE: IntakeRules = IntakeRules.parse({});

/** What a check of a copy found, each apart from the others. */
export const CheckReport = z.object({
  at: z.string(),
  /** What the files were compared with: what was recorded while copying, or a hash list where nothing was recorded here. */
  against: z.enum(['record', 'list']),
  list: z.string(),
  generation: z.int().nullable(),
  same: z.int(),
  changed: z.array(ShownPath),
  missing: z.array(ShownPath),
  added: z.array(ShownPath),
  /** Files that could not be read, with the reason. */
  unreadable: z.array(z.object({ path: ShownPath, why: z.string() })),
  /** Files the list gives no hash for that can be computed here. */
  unchecked: z.array(ShownPath),
  /** What the hash list beside the copy says of the record: a second witness. Null where the list was what was compared with. */
  witness: z.enum(['agrees', 'altered', 'missing']).nullable(),
  /** Files of which the list says something else than the record. */
  disagree: z.array(ShownPath),
  /** What is wrong with the lists themselves. */
  lists: z.array(z.string()),
});
export type CheckReport = z.infer<typeof CheckReport>;

/** A copy to be begun. */
export const NewOffload = z.object({
  root: z.string(),
  path: PathBelow,
  /** The card below that folder. */
  folder: PathBelow,
  camera: z.string().regex(/^[A-Z]$/, 'a camera is one capital letter'),
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
  safe: z.array(z.string()).max(8),
  shelf: z.boolean(),
  pattern: z
    .string()
    .max(200)
    .refine((p) => patternFault(p) === null, { error: (i) => patternFault(String(i.input)) ?? '' }),
  verification: Verification,
  hash: ChosenHash,
  /** Stills of one number row that are to be single pictures, by the path of the row's first. */
  singles: z.array(z.string()).max(10_000).default([]),
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
  destinations: z.array(OffloadDestination.extend({ rootName: z.string(), place: ShownPath })),
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

/** How a running copy stands: sent while it runs. */
export const OffloadProgress = z.object({
  id: z.string(),
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

export const SafeCopyView = z.object({
  id: z.string(),
  root: z.string(),
  rootName: z.string(),
  folder: ShownPath,
  place: ShownPath,
  disk: DiskIdentity,
  standIn: z.boolean(),
  /** Whether that is the disk the card itself is on: it does not count then. */
  withCard: z.boolean(),
  /** Whether it stands on the disk it was verified on; a cloned drive is another. */
  sameDisk: z.boolean(),
  /** Whether its drive is connected, and when it was last seen. */
  present: z.boolean(),
  seenAt: z.string().nullable(),
  verification: Verification,
  hash: HashKind,
  verifiedAt: z.string(),
  /** Files it was given, and how many of them are proven now, compared by size only, or wrong in some way. */
  files: z.int(),
  bytes: z.number(),
  proven: z.int(),
  sizeOnly: z.int(),
  wrong: z.int(),
  check: CheckReport.nullable(),
  /** Share of a check that runs; null where none does. */
  checking: z.number().nullable(),
});
export type SafeCopyView = z.infer<typeof SafeCopyView>;

const WayOn = z.discriminatedUnion('do', [
  z.object({ do: z.literal('check'), copy: z.string() }),
  z.object({ do: z.literal('connect'), copy: z.string() }),
  z.object({ do: z.literal('copy') }),
  z.object({ do: z.literal('retry') }),
  z.object({ do: z.literal('wait') }),
  z.object({ do: z.literal('servers') }),
]);

/** One card: may it be wiped, and why. */
export const WipeView = z.object({
  card: z.string(),
  /** The physical card; null where footage is used in place. */
  physical: z.string().nullable(),
  /** Whether a card of the job bears the label; else it was forgotten or its id corrected. */
  labelled: z.boolean(),
  camera: z.string(),
  day: z.int(),
  at: z.string(),
  job: z.string(),
  code: z.string(),
  verdict: z.enum(['yes', 'asOf', 'notNow', 'no']),
  may: z.boolean(),
  because: z.string(),
  reasons: z.array(
    z.object({ text: z.string(), files: z.array(ShownPath), count: z.int(), way: WayOn.nullable() }),
  ),
  notes: z.array(z.string()),
  /** All of a volume, or a folder of it. */
  scope: z.enum(['volume', 'folder']),
  offlineCounts: z.boolean(),
  serversApart: z.boolean(),
  /** A copying of it that failed in part, which can be tried again. */
  retry: z.string().nullable(),
  files: z.int(),
  bytes: z.number(),
  copies: z.array(SafeCopyView),
  /** Copies on the shelf are working copies and do not count. */
  shelf: z.boolean(),
});
export type WipeView = z.infer<typeof WipeView>;

/** The receipt: the answer, and every file with what proves it. */
export const Receipt = WipeView.extend({
  list: z.array(
    z.object({
      path: ShownPath,
      size: z.number(),
      hash: z.string().nullable(),
      kind: HashKind.nullable(),
      copies: z.int(),
    }),
  ),
});
export type Receipt = z.infer<typeof Receipt>;

export const CheckFolder = z.object({ root: z.string(), folder: PathBelow, list: PathBelow.nullable() });
export type CheckFolder = z.infer<typeof CheckFolder>;
