import * as z from 'zod';
import { ShownPath } from '../platform/names';
import { countsTimecode, Rate } from '../platform/timecode/rate';
import { LaidVerdict, Laid } from './edit/lay';
import { EditTrack, EditEvent } from './edit/edit';
import { Finding, Mend, Verdict } from './rehearsal';
import { Tried, Way } from './ways';

const Ids = z.array(z.string().min(1).max(64)).min(1).max(100_000);

/** Which clips of the rehearsal are wanted: those of a verdict, or those with which a way goes like this. */
export const RehearsalQuery = z.object({
  verdict: Verdict.nullable().default(null),
  way: z.object({ way: Way, result: Tried.shape.result }).nullable().default(null),
  /** Part of a name, of the file in the edit or of the original. */
  words: z.string().max(200).default(''),
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(1).max(500).default(100),
});
export type RehearsalQuery = z.infer<typeof RehearsalQuery>;

export const RehearsalView = z.object({
  /** Clips that were tried, and those left out: not read yet, or not readable. */
  clips: z.int(),
  unread: z.int(),
  verdicts: z.record(Verdict, z.int()),
  ways: z.array(z.object({ way: Way, counts: z.record(Tried.shape.result, z.int()) })),
  /** How many clips each mend is offered for. */
  mends: z.record(Mend, z.int()),
  /** How many are as they were asked for, and those from `offset` on. */
  found: z.int(),
  lines: z.array(Finding.extend({ card: z.string(), camera: z.string() })),
});
export type RehearsalView = z.infer<typeof RehearsalView>;

/** What is mended: of these clips, or of all for which it is offered. */
export const MendRequest = z.object({
  mend: z.enum(['rewrap', 'again', 'look']),
  clips: Ids.nullable().default(null),
});
export type MendRequest = z.infer<typeof MendRequest>;
/** How many clips work was begun for, and why not for others. */
export const Mended = z.object({
  begun: z.int(),
  refused: z.array(z.object({ name: ShownPath, why: z.string() })),
});
export type Mended = z.infer<typeof Mended>;

/** A rate that timecode counts at. */
const Counting = Rate.refine(countsTimecode, 'timecode counts from 1 to 1000 frames a second');

/** A timeline as it came back: an edit decision list or OpenTimelineIO. `rate` of null is guessed, of a list, which does not say it. */
export const NewEdit = z.object({
  file: z.string().min(1).max(255),
  text: z.string().min(1).max(9_500_000),
  rate: Counting.nullable().default(null),
});
export type NewEdit = z.infer<typeof NewEdit>;

export const EditName = z.object({
  id: z.string(),
  name: z.string(),
  file: z.string(),
  format: z.enum(['edl', 'otio']),
  readAt: z.string(),
});
export type EditName = z.infer<typeof EditName>;

/** A file that events were cut from whose timecode is not the original's: which one, in words, and how many events. */
const CutFrom = z.object({ file: z.string(), words: z.string(), events: z.int() });

export const EditView = EditName.extend({
  rate: Rate,
  /** Whether nobody said the rate. */
  guessed: z.boolean(),
  /** Timecode of its first frame, and how long it is in frames of its own. */
  start: z.string(),
  frames: z.int(),
  faults: z.array(z.string()),
  counts: z.record(LaidVerdict, z.int()),
  cutFrom: z.array(CutFrom),
  /** How many files `cutFrom` leaves out. */
  moreCutFrom: z.int(),
  /** How many events count otherwise, or name another file, in a corrected timeline. */
  corrected: z.int(),
  /** Files of originals that would count as it does, and how many of them are not made. */
  alike: z.object({ files: z.int(), missing: z.int() }),
  tracks: z.array(
    EditTrack.pick({ name: true, kind: true }).extend({
      /** From, to, and the place of the verdict in `LaidVerdict`; as many numbers as that, for a strip of thousands. */
      events: z.array(z.tuple([z.int(), z.int(), z.int()])),
    }),
  ),
});
export type EditView = z.infer<typeof EditView>;

/** Events of an edit that are wanted: of a verdict, cut from files with another timecode, or all. */
export const EventsQuery = z.object({
  verdict: LaidVerdict.nullable().default(null),
  shifted: z.boolean().default(false),
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(1).max(500).default(100),
});
export type EventsQuery = z.infer<typeof EventsQuery>;

export const EventsFound = z.object({
  found: z.int(),
  lines: z.array(
    Laid.extend({
      /** Of the track by its place, and of the event in it. */
      track: z.int(),
      place: z.int(),
      label: z.string(),
      /** Timecode in the edit. */
      at: z.string(),
      /** What the edit calls it, and the numbers it uses. */
      called: z.string(),
      numbers: z.string(),
      speed: z.number(),
      transition: EditEvent.shape.transition,
      /** The clip it is of. */
      of: z.object({ name: ShownPath, card: z.string() }).nullable(),
    }),
  ),
});
export type EventsFound = z.infer<typeof EventsFound>;

/** The rate a list is read at. */
export const EditRate = z.object({ rate: Counting });
export type EditRate = z.infer<typeof EditRate>;
