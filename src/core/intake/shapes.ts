import * as z from 'zod';
import { CameraLabel } from '../platform/cameraLabel';
import { FolderQuery } from '../places';
import { Rate } from '../platform/timecode/rate';
import { ShownPath, PathBelow } from '../platform/names';
import { NextSteps } from '../next';
import { ClipKind, FileRole } from './shape';
import { HashKind } from '../hashLists';

/** A folder to be looked at; `singles` are rows of numbered stills to be shown as single pictures. */
export const LookQuery = FolderQuery.extend({ singles: z.array(z.string()).max(10_000).default([]) });

/** What a file says of itself before it is taken in; null where it does not say it. */
export const LookedFacts = z.object({
  seconds: z.number().nullable(),
  rate: Rate.nullable(),
  start: z.string().nullable(),
  recordedAt: z.string().nullable(),
  codec: z.string().nullable(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  channels: z.int().nullable(),
  fault: z.string().nullable(),
});
export type LookedFacts = z.infer<typeof LookedFacts>;

export const FolderView = z.object({
  root: z.string(),
  path: z.string(),
  folders: z.array(
    z.object({
      name: ShownPath,
      path: z.string(),
      files: z.int(),
      footage: z.int(),
      bytes: z.number(),
      whole: z.boolean(),
    }),
  ),
  files: z.int(),
  footage: z.int(),
  bytes: z.number(),
  samples: z.array(ShownPath),
});
export type FolderView = z.infer<typeof FolderView>;

const suggested = <T extends z.ZodType>(value: T) => z.object({ value, because: z.string() });

export const LookedCard = z.object({
  folder: z.string(),
  shape: z.object({ id: z.string(), name: z.string(), because: z.string() }),
  clips: z.array(
    z.object({
      /** The original, below the card: what tells the clip from others. */
      path: z.string(),
      stem: ShownPath,
      kind: ClipKind,
      bytes: z.number(),
      missing: z.array(z.string()),
      /** Where the same recording is in the job already; null where it is new. */
      here: z.object({ card: z.string(), name: ShownPath }).nullable(),
      files: z.array(z.object({ path: ShownPath, role: FileRole, size: z.number() })),
    }),
  ),
  /** Everything that was offered with it: all of the volume, or the folder that was looked at, with what else is on that volume. */
  all: z.object({
    files: z.int(),
    bytes: z.number(),
    folder: ShownPath,
    wholeVolume: z.boolean(),
    outside: z.array(ShownPath),
  }),
  /** The card where it is one that was copied before: its ids in this job and in others, files that are new since, and the hash its copies are known by. */
  known: z
    .object({
      physical: z.string(),
      labels: z.array(z.string()),
      elsewhere: z.array(z.object({ job: z.string(), label: z.string() })),
      label: z.string(),
      newFiles: z.int(),
      gone: z.int(),
      hash: HashKind.nullable(),
      lastSeen: z.string(),
    })
    .nullable(),
  aside: z.array(z.object({ path: ShownPath, size: z.number(), reason: z.string() })),
  proxySuffix: z.string().nullable(),
  /** What a person should look at before the card is taken in, in sentences. */
  doubts: z.array(z.string()),
  gaps: z.array(z.object({ from: z.string(), to: z.string(), count: z.int(), after: z.string() })),
  model: z.string().nullable(),
  suggestion: z.object({
    camera: suggested(z.string()),
    cardId: suggested(z.string()),
    day: suggested(z.int()),
    date: suggested(z.string().nullable()),
  }),
  /** Card ids of the job whose files these are already; empty for a new card. */
  already: z.array(z.string()),
  /** The card of the job that holds the same recordings, and how many of them; null where none does. */
  same: z.object({ card: z.string(), clips: z.int(), of: z.int() }).nullable(),
  /** Names that some volumes cannot hold beside one another, or at all. */
  names: z.array(z.string()),
});
export type LookedCard = z.infer<typeof LookedCard>;

/** What a card looks like by the names on it, before any file is looked into. */
export const FirstLook = z.object({
  root: z.string(),
  path: z.string(),
  cards: z.array(LookedCard.pick({ folder: true, shape: true, clips: true })),
});
export type FirstLook = z.infer<typeof FirstLook>;

export const Looked = z.object({
  root: z.string(),
  path: z.string(),
  cards: z.array(LookedCard),
  aside: z.array(z.object({ path: ShownPath, size: z.number(), reason: z.string() })),
});
export type Looked = z.infer<typeof Looked>;

/** What a volume or folder looks like before it is a place. */
export const PlaceGlance = z.object({
  /** Names of the card shapes in it, each once. */
  shapes: z.array(z.string()),
  cards: z.int(),
  clips: z.int(),
  /** Clips that are not on the card as it is known; null where it is no card that is known: all of them are. */
  fresh: z.int().nullable(),
  /** The label of the card it is, where that is known. */
  known: z.string().nullable(),
  /** False where it holds more than was looked at. */
  whole: z.boolean(),
});
export type PlaceGlance = z.infer<typeof PlaceGlance>;

export const CardChoice = z.object({
  folder: PathBelow,
  camera: CameraLabel,
  cardId: z.string().regex(/^[A-Za-z0-9-]{1,16}$/, 'a card id is one to sixteen letters, digits or dashes'),
  day: z.int('a day is a whole number').min(1, 'days count from 1').max(999),
  date: z
    .string()
    .regex(/^\d{4}-\d\d-\d\d$/)
    .nullable(),
});
export type CardChoice = z.infer<typeof CardChoice>;
export const TakeIn = z.object({
  root: z.string(),
  path: PathBelow,
  cards: z.array(CardChoice).min(1).max(200),
  /** Rows of numbered stills to be single pictures, by the path of the row's first below the folder. */
  singles: z.array(z.string()).max(10_000).default([]),
  next: NextSteps.prefault({}),
});
export type TakeIn = z.input<typeof TakeIn>;
