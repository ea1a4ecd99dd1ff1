import * as z from 'zod';
import { ShownPath, PathBelow } from '../platform/names';
import { DiskIdentity } from '../platform/disks';
import { Verification } from '../offload';
import { HashKind } from '../hashLists';

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
  /** Whether it is on the disk it was verified on; a cloned drive is another. */
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
