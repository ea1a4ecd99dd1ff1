import * as z from 'zod';
import { ClipKind } from '../intake';
import { ShownPath } from '../platform/names';
import { Rate } from '../platform/timecode/rate';
import { PairState } from '../proxies';
import { BinLabel } from './bin';
import { LONGEST_NAME, tidyName } from './keyword';
import { GivenKind, RangeKind } from './range';
import { Rule } from './rule';
import { LONGEST } from './search/query';

// The shapes of the Choose screen that cross between server and interface.

const Id = z.string().min(1).max(64);
const Ids = z.array(Id).min(1).max(100_000);
/** A name as it is kept (`tidyName`). */
export const Name = z.string().transform((typed, context) => {
  const name = tidyName(typed);
  if (name === null)
    context.addIssue({ code: 'custom', message: `a name has 1 to ${LONGEST_NAME} characters` });
  return name ?? z.NEVER;
});
const Note = z.string().max(2000);

/** What is seen: clips of a bin with the bins in it, of no bin, or of the job; and of those what is searched for. */
export const Wanted = z.object({
  query: z.string().max(LONGEST).default(''),
  /** `none` for clips that stand in no bin. */
  bin: z
    .union([Id, z.literal('none')])
    .nullable()
    .default(null),
  by: z.enum(['none', 'day', 'camera', 'card', 'rate', 'keyword', 'bin', 'rolling']).default('none'),
  /** A field of the search; null for shooting order. */
  sort: z
    .object({ by: z.string().max(40), down: z.boolean() })
    .nullable()
    .default(null),
});
export type Wanted = z.infer<typeof Wanted>;
/** Stretches of clips, whole clips where no frames are said. */
const Items = z
  .array(z.object({ clip: Id, from: z.int().nullable().default(null), to: z.int().nullable().default(null) }))
  .max(10_000);
/** All clips of what is wanted, or all their selects. */
const OfFound = z.object({ wanted: Wanted, what: z.enum(['clips', 'selects']) });

// What of a thing is changed, and what the person saw of that before.
const KeywordEdit = z.object({
  name: Name.optional(),
  family: z.string().max(LONGEST_NAME).optional(),
  /** One of the nine keys; null for none. */
  hotkey: z.int().min(1).max(9).nullable().optional(),
});
const BinEdit = z.object({
  name: Name.optional(),
  label: BinLabel.nullable().optional(),
  note: Note.optional(),
});
const RangeEdit = z.object({
  from: z.int().optional(),
  to: z.int().optional(),
  kind: GivenKind.optional(),
  name: z.string().max(LONGEST_NAME).optional(),
  note: Note.optional(),
});
const SearchEdit = z.object({ name: Name.optional(), query: z.string().max(LONGEST).optional() });

/** What is changed. `was` is what the person saw of it: where another has changed it since, that is said and nothing is overwritten. */
export const Change = z.discriminatedUnion('do', [
  /** Gives a keyword, by its name, which is made where it is new. */
  z.object({ do: z.literal('addKeyword'), clips: Ids, range: Id.nullable().default(null), name: Name }),
  z.object({ do: z.literal('takeKeyword'), clips: Ids, range: Id.nullable().default(null), keyword: Id }),
  z.object({
    do: z.literal('editKeyword'),
    keyword: Id,
    set: KeywordEdit,
    was: KeywordEdit,
  }),
  /** Lists it before another, in the group of that; of null at the end of its own. */
  z.object({ do: z.literal('moveKeyword'), keyword: Id, before: Id.nullable() }),
  /** Every clip that has the one has the other from then on; the first is gone. */
  z.object({ do: z.literal('mergeKeyword'), keyword: Id, into: Id }),
  z.object({ do: z.literal('removeKeyword'), keyword: Id }),
  z.object({
    do: z.literal('addBin'),
    name: Name,
    parent: Id.nullable().default(null),
    clips: z.array(Id).max(100_000).default([]),
  }),
  /** A bin for each of what clips of the job say of themselves, with those clips. */
  z.object({ do: z.literal('makeBins'), by: z.enum(['day', 'camera', 'card', 'rate', 'scene', 'folder']) }),
  z.object({
    do: z.literal('editBin'),
    bin: Id,
    set: BinEdit,
    was: BinEdit,
  }),
  z.object({ do: z.literal('moveBins'), bins: z.array(Id).min(1).max(1000), into: Id.nullable() }),
  /** With the bins that stand in it. No clip goes. */
  z.object({ do: z.literal('removeBin'), bin: Id }),
  z.object({ do: z.literal('putInBin'), bin: Id, clips: Ids, from: Id.nullable().default(null) }),
  z.object({ do: z.literal('takeFromBin'), bin: Id, clips: Ids }),
  z.object({
    do: z.literal('addRange'),
    clip: Id,
    from: z.int(),
    to: z.int(),
    kind: GivenKind,
    name: z.string().max(LONGEST_NAME).default(''),
    note: Note.default(''),
  }),
  z.object({
    do: z.literal('editRange'),
    range: Id,
    set: RangeEdit,
    was: RangeEdit.required({ from: true, to: true }),
  }),
  z.object({ do: z.literal('removeRanges'), ranges: z.array(Id).min(1).max(10_000) }),
  z.object({
    do: z.literal('addStringOut'),
    name: Name,
    items: Items.default([]),
    found: OfFound.optional(),
  }),
  /** Before an item of it, or at its end. */
  z.object({
    do: z.literal('addToStringOut'),
    list: Id,
    items: Items.default([]),
    found: OfFound.optional(),
    before: Id.nullable().default(null),
  }),
  z.object({
    do: z.literal('moveInStringOut'),
    list: Id,
    items: z.array(Id).min(1).max(10_000),
    before: Id.nullable(),
  }),
  z.object({
    do: z.literal('trimInStringOut'),
    item: Id,
    from: z.int(),
    to: z.int(),
    was: z.object({ from: z.int(), to: z.int() }),
  }),
  /** In two, the second of which begins with a frame. */
  z.object({ do: z.literal('splitInStringOut'), item: Id, at: z.int() }),
  z.object({ do: z.literal('removeFromStringOut'), items: z.array(Id).min(1).max(10_000) }),
  z.object({ do: z.literal('renameStringOut'), list: Id, name: Name, was: z.string() }),
  z.object({ do: z.literal('removeStringOut'), list: Id }),
  z.object({ do: z.literal('saveSearch'), name: Name, query: z.string().max(LONGEST) }),
  z.object({
    do: z.literal('editSearch'),
    search: Id,
    set: SearchEdit,
    was: SearchEdit,
  }),
  z.object({ do: z.literal('removeSearch'), search: Id }),
  /** That clips ran at once, each so many seconds after the first, null for as its timecode or clock says; `was` is the group they were seen in. */
  z.object({
    do: z.literal('rollTogether'),
    clips: z
      .array(z.object({ clip: Id, offset: z.number().min(-1e7).max(1e7).nullable() }))
      .min(2)
      .max(1000),
    was: Id.nullable(),
  }),
  /** That clips did not run at once, whatever timecodes and clocks say. */
  z.object({ do: z.literal('takeApart'), clips: z.array(Id).min(2).max(1000), was: Id.nullable() }),
  z.object({ do: z.literal('addRule'), rule: Rule }),
  z.object({ do: z.literal('editRule'), rule: Id, set: Rule, was: Rule }),
  /** What it gave it takes back. */
  z.object({ do: z.literal('removeRule'), rule: Id }),
]);
export type Change = z.infer<typeof Change>;

export const FindQuery = Wanted.extend({
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(0).max(500).default(200),
  /** Whether the running time of every clip is wanted. */
  lengths: z.boolean().default(false),
});
export type FindQuery = z.infer<typeof FindQuery>;
/** Ids of clips from `offset` on, in their order. */
export const FindIds = Wanted.extend({
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(1).max(100_000).default(100_000),
});
export type FindIds = z.infer<typeof FindIds>;

export const RangeView = z.object({
  id: z.string(),
  clip: z.string(),
  kind: RangeKind,
  from: z.int(),
  to: z.int(),
  name: z.string(),
  note: z.string(),
  /** Ids of its own keywords. */
  keywords: z.array(z.string()),
});
export type RangeView = z.infer<typeof RangeView>;

/** A clip as the sheet of frames shows it. */
export const Tile = z.object({
  id: z.string(),
  card: z.string(),
  camera: z.string(),
  day: z.int(),
  name: ShownPath,
  kind: ClipKind,
  state: z.enum(['waiting', 'read', 'unreadable']),
  filmstrip: z.boolean(),
  start: z.string().nullable(),
  seconds: z.number().nullable(),
  rate: Rate.nullable(),
  frames: z.int().nullable(),
  pair: PairState,
  /** How bad what is to be looked at is; null where nothing is. */
  worst: z.enum(['stop', 'look']).nullable(),
  /** Ids of the keywords of all of it. */
  keywords: z.array(z.string()),
  ranges: z.array(RangeView),
});
export type Tile = z.infer<typeof Tile>;

/** Clips that ran at the same time. */
export const RollingView = z.object({
  /** Null while nobody confirmed it. */
  id: z.string().nullable(),
  /** Frames a second in which it is shown how far apart they begin. */
  rate: Rate,
  /** The clip whose sound the others are compared with; null where none has sound. */
  reference: z.string().nullable(),
  /** In the order of their beginnings. */
  clips: z.array(
    z.object({
      clip: z.string(),
      name: ShownPath,
      camera: z.string(),
      kind: ClipKind,
      /** Seconds after the first, and by what that is so. */
      offset: z.number(),
      by: z.enum(['timecode', 'clock', 'person']),
      /** What the sound says of that: seconds after the first, null where it does not tell. Null where nobody listened. */
      sound: z.object({ offset: z.number().nullable(), alike: z.number() }).nullable(),
    }),
  ),
  /** How many more there are. */
  more: z.int(),
});
export type RollingView = z.infer<typeof RollingView>;

/** What came of comparing sound. */
export const HeardOf = z.object({ compared: z.int(), told: z.int(), faults: z.array(z.string()) });
export type HeardOf = z.infer<typeof HeardOf>;
/** What is compared: the clips that roll together with one, or, of null, all that roll together. */
export const Listen = z.object({ clip: Id.nullable() });

/** What is said of one clip. */
export const ClipMarks = Tile.pick({ keywords: true, ranges: true }).extend({
  /** Ids of those of its keywords that only rules gave it. */
  ruled: z.array(z.string()),
  /** With what it ran at the same time; null where with nothing. */
  rolling: RollingView.nullable(),
});
export type ClipMarks = z.infer<typeof ClipMarks>;

export const Found = z.object({
  clips: z.int(),
  /** Of the job. */
  of: z.int(),
  seconds: z.number(),
  /** In their order; a clip may stand in several. */
  groups: z.array(z.object({ name: z.string(), clips: z.int() })),
  /** From `offset` on, in the order of the groups. */
  tiles: z.array(Tile),
  /** Running times in seconds of all of them, in the same order, where they were asked for; null where one is not known. */
  lengths: z.array(z.number().nullable()).nullable(),
});
export type Found = z.infer<typeof Found>;

export const KeywordView = z.object({
  id: z.string(),
  name: z.string(),
  family: z.string(),
  hotkey: z.int().nullable(),
  /** Clips that have it, or a range of which has. */
  clips: z.int(),
});
export type KeywordView = z.infer<typeof KeywordView>;
export const BinView = z.object({
  id: z.string(),
  parent: z.string().nullable(),
  name: z.string(),
  label: BinLabel.nullable(),
  note: z.string(),
  /** Clips that stand in it and in those in it, each once. */
  clips: z.int(),
});
export type BinView = z.infer<typeof BinView>;
export const SearchView = z.object({
  id: z.string(),
  name: z.string(),
  query: z.string(),
  /** Null where it is not understood any more. */
  clips: z.int().nullable(),
});
export type SearchView = z.infer<typeof SearchView>;

export const RuleView = Rule.extend({
  id: z.string(),
  /** It in words. */
  says: z.string(),
  /** Clips it gave a keyword, and how many keywords it gave; of one that is not understood any more, why. */
  clips: z.int(),
  keywords: z.int(),
  fault: z.string().nullable(),
});
export type RuleView = z.infer<typeof RuleView>;

/** A level of the folders that clips were taken in from: 1 is the outermost. */
export const FolderLevel = z.object({
  level: z.int(),
  names: z.array(z.string()),
  /** How many more there are. */
  more: z.int(),
});
export type FolderLevel = z.infer<typeof FolderLevel>;

export const StringOutView = z.object({
  id: z.string(),
  name: z.string(),
  items: z.int(),
  seconds: z.number(),
});
export type StringOutView = z.infer<typeof StringOutView>;

/** A stretch of a clip as it is played. */
export const PlayPart = z.object({
  id: z.string(),
  clip: z.string(),
  /** Of the clip. */
  name: ShownPath,
  from: z.int(),
  to: z.int(),
  /** Of the clip. */
  frames: z.int(),
  /** What frames are counted from; null: its own beginning. */
  start: z.string().nullable(),
  rate: Rate,
  /** Which file the browser plays of it; null where it plays none. */
  plays: z.enum(['proxy', 'original']).nullable(),
  /** What the clip is. */
  media: ClipKind,
});
export type PlayPart = z.infer<typeof PlayPart>;

/** A string-out with what it is made of. */
export const StringOutDetail = StringOutView.extend({
  /** `twice`: whether frames of it are in the string-out more than once. */
  parts: z.array(PlayPart.extend({ twice: z.boolean() })),
});
export type StringOutDetail = z.infer<typeof StringOutDetail>;

/** Ranges of the clips that are wanted, of some kinds or all. */
export const RangesQuery = Wanted.extend({
  kinds: z.array(RangeKind).max(RangeKind.options.length).default([]),
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(1).max(500).default(200),
});
export type RangesQuery = z.infer<typeof RangesQuery>;
export const RangesFound = z.object({
  /** All of them, and how long they run in seconds. */
  ranges: z.int(),
  seconds: z.number(),
  /** From `offset` on, in the order of their clips and of their beginnings. */
  parts: z.array(
    PlayPart.extend({
      kind: RangeKind,
      /** What it is named. */
      called: z.string(),
      note: z.string(),
      keywords: z.array(z.string()),
    }),
  ),
});
export type RangesFound = z.infer<typeof RangesFound>;

/** What stands beside the clips. */
export const ChooseView = z.object({
  clips: z.int(),
  unbinned: z.int(),
  keywords: z.array(KeywordView),
  bins: z.array(BinView),
  searches: z.array(SearchView),
  rules: z.array(RuleView),
  stringOuts: z.array(StringOutView),
});
export type ChooseView = z.infer<typeof ChooseView>;

/** Saved searches as a file. */
export const SearchFile = z.object({
  format: z.literal('sort-shelf-searches'),
  version: z.literal(1),
  searches: z.array(z.object({ name: Name, query: z.string().max(LONGEST) })).max(1000),
});
export type SearchFile = z.infer<typeof SearchFile>;
