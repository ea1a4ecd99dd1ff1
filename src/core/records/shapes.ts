import * as z from 'zod';
import { NewJob } from '../jobs';
import { FullPath } from '../places';

/** The records of one database, as they are offered. */
export const RecordsView = z.object({
  library: z.string(),
  /** The jobs it holds. */
  jobs: z.array(z.object({ name: z.string(), code: z.string() })),
  /** When they were written last. */
  at: z.iso.datetime(),
  cards: z.int(),
  clips: z.int(),
  copies: z.int(),
  /** The files found, absolute. */
  files: z.array(z.string()),
  /** Whether nobody can know more than they; otherwise copies have to be checked again before they count. */
  latest: z.boolean(),
  /** Whether the database of this data folder wrote them. */
  own: z.boolean(),
  /** Whether newer ones of the same footage were found. */
  older: z.boolean(),
});
export type RecordsView = z.infer<typeof RecordsView>;

/** What can be done where the database is damaged or gone, or where nothing was begun yet. */
export const RescueView = z.object({
  /** What is wrong with the database; null where it is open. */
  lost: z.string().nullable(),
  /** Whether records can be taken: the database is lost, or empty. */
  open: z.boolean(),
  snapshots: z.array(z.object({ name: z.string(), at: z.iso.datetime(), bytes: z.number() })),
  records: z.array(RecordsView),
  /** Files of records that cannot be read, with the reason. */
  faults: z.array(z.string()),
});
export type RescueView = z.infer<typeof RescueView>;

/** Folders to look for records in, beside those where they usually stand. */
export const Also = z.array(z.string().min(1).max(4096)).max(20).default([]);

export const RescueChoice = z.object({
  how: z.enum(['records', 'snapshot', 'empty']),
  library: z.uuid().optional(),
  also: Also,
});
export type RescueChoice = z.infer<typeof RescueChoice>;

/** The jobs whose own folder a copied folder was, as its records tell; none where it holds no such records. */
export const CopiedJobs = z.object({
  jobs: z.array(z.object({ id: z.string(), name: z.string(), code: z.string() })),
  /** When the records were written last; null where there are none. */
  at: z.iso.datetime().nullable(),
});
export type CopiedJobs = z.infer<typeof CopiedJobs>;

/** A job that begins in a folder that was copied from another job's, and as that one was told. */
export const NewFromCopy = NewJob.pick({ name: true, code: true }).extend({
  from: z.string().max(64),
  folder: FullPath,
});
export type NewFromCopy = z.infer<typeof NewFromCopy>;

/** What was rebuilt, and how much of it is where it was recorded. */
export const Rebuilt = z.object({
  at: z.iso.datetime(),
  cards: z.int(),
  clips: z.int(),
  copies: z.int(),
  /** Files of clips that stand as they were recorded; those that are not there or are others, the first of them by name; and those on drives and cards that are not connected. */
  standing: z.int(),
  missing: z.int(),
  missingNames: z.array(z.string()),
  away: z.int(),
  /** Changes of names that only the journal knew. */
  plans: z.int(),
  /** Whether what is known of the copies counts as it is, or they have to be checked again. */
  copiesCount: z.boolean(),
});
export type Rebuilt = z.infer<typeof Rebuilt>;

/** What came of a choice; `rebuilt` where it was made from records. */
export const Rescued = z.object({ rebuilt: Rebuilt.nullable() });
export type Rescued = z.infer<typeof Rescued>;
