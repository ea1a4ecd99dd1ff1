import * as z from 'zod';
import { PairState, PairCheck } from './prove';
import { ShownPath } from '../platform/names';
import { ChosenClips, WorkView } from '../platform/shapes';
import { plural } from '../platform/words';
import { Rate } from '../platform/timecode/rate';
import { FolderQuery } from '../places';
import { NameRule } from './adopt';
import { ProxyRules } from './need';
import { Recipe } from './recipe';

/** A part of a clip: frames from this one to before that one, from 0. */
export const Part = z.object({ from: z.int().min(0), to: z.int().min(1) }).refine((p) => p.to > p.from);
export type Part = z.infer<typeof Part>;

export const PairView = z.object({
  state: PairState,
  checks: z.array(PairCheck),
  file: z.string().nullable(),
  made: z.boolean(),
  /** What is otherwise in a proxy made here than in its original, in words. */
  changes: z.array(z.string()),
});
export type PairView = z.infer<typeof PairView>;

/** A clip of which something can be made. */
export const Makeable = z.object({
  clip: z.string(),
  name: ShownPath,
  card: z.string(),
  /** Whether it needs a proxy by the job's rules, and why or why not. */
  needed: z.boolean(),
  because: z.string(),
  /** By which recipe of the rules its proxy would be made. */
  recipe: z.string(),
  /** Recipes by which something was made of it already. */
  has: z.array(z.string()),
  rate: Rate,
  seconds: z.number(),
  width: z.number(),
  height: z.number(),
  frames: z.number(),
  channels: z.number(),
  /** Of the original. */
  bytes: z.number(),
});
export type Makeable = z.infer<typeof Makeable>;

/** What came of checking picture and sound of clips. */
export const WatchedThrough = z.object({
  clips: z.int(),
  /** Clips of which something was found. */
  found: z.int(),
  faults: z.array(z.string()),
});
export type WatchedThrough = z.infer<typeof WatchedThrough>;

/** The same in a sentence. */
export const watchedInWords = ({ clips, found, faults }: WatchedThrough): string =>
  [
    `${plural(clips, 'clip')} checked: ${found === 0 ? 'nothing was found' : `something was found in ${found}, as ranges in Choose`}.`,
    ...faults.slice(0, 5),
    ...(faults.length > 5 ? [`And ${faults.length - 5} more could not be checked.`] : []),
  ].join(' ');

/** How work by a recipe went here: seconds of footage a second of work, and bytes made by bytes foreseen. */
export const Measured = z.object({ recipe: z.string(), timesRealTime: z.number(), size: z.number() });
export type Measured = z.infer<typeof Measured>;

/** One file that stands beside an original; `file` is null in the line of a clip that has none. */
export const PairLine = z.object({
  clip: z.string(),
  name: ShownPath,
  card: z.string(),
  file: z.string().nullable(),
  /** What it is: "made by the camera", "proxy by “…”". */
  what: z.string(),
  /** Whether it is the one that counts for its clip, and whether a person said so. */
  first: z.boolean(),
  stands: z.boolean(),
  made: z.boolean(),
  /** Whether it was found and adopted, not made here. */
  adopted: z.boolean(),
  bytes: z.number(),
  state: PairState,
  changes: z.array(z.string()),
  reason: z.string(),
  checks: z.array(PairCheck),
  checkedAt: z.string().nullable(),
});
export type PairLine = z.infer<typeof PairLine>;

export const ProxiesView = z.object({
  rules: ProxyRules,
  clips: z.array(Makeable),
  /** Clips of which no proxy is made, and recordings of sound, whose picture and sound were not looked at and listened to yet. */
  unwatched: z.array(z.string()),
  measured: z.array(Measured),
  pairs: z.array(PairLine),
  work: z.array(WorkView),
  /** What the rules can be about: cameras, rates and codecs of the job's clips. */
  known: z.object({ cameras: z.array(z.string()), rates: z.array(z.string()), codecs: z.array(z.string()) }),
});
export type ProxiesView = z.infer<typeof ProxiesView>;

/** Clips of which something is to be made, by a recipe or as the rules say. */
export const MakeRequest = ChosenClips.extend({
  recipe: Recipe.nullable().default(null),
  /** Only this part of each. */
  part: Part.nullable().default(null),
});
export type MakeRequest = z.infer<typeof MakeRequest>;

/** A recipe that is tried on a clip. */
export const TryRecipe = z.object({ clip: z.string(), recipe: Recipe });
export type TryRecipe = z.infer<typeof TryRecipe>;

/** What came of it: some seconds of the clip, made and thrown away. */
export const Trial = z.object({
  seconds: z.number(),
  timesRealTime: z.number(),
  bytes: z.number(),
  /** As large the whole clip would be. */
  wholeBytes: z.number(),
  /** The frame that the pictures are of, from 0; JPEGs in base64. */
  frame: z.int(),
  original: z.string(),
  made: z.string(),
  changes: z.array(z.string()),
});
export type Trial = z.infer<typeof Trial>;

/** What is done with a file that stands beside an original. An adopted one is taken apart from it, and stays on the disk. */
export const PairAction = z.object({
  action: z.enum(['stands', 'standsNot', 'remove', 'apart']),
  file: z.string(),
});
export type PairAction = z.infer<typeof PairAction>;

/** Where proxies are looked for. */
export const AdoptSearch = FolderQuery;
export type AdoptSearch = z.infer<typeof AdoptSearch>;

const FoundFile = z.object({ path: z.string(), shown: ShownPath, size: z.number() });
const OfClip = z.object({ clip: z.string(), name: ShownPath, card: z.string() });

/** What was found there, and whose it is. */
export const AdoptionView = z.object({
  /** How many video files were looked at: those of no clip yet. */
  looked: z.int(),
  rules: z.array(NameRule),
  pairs: z.array(
    z.object({ file: FoundFile, of: OfClip, by: z.enum(['name', 'rule', 'timecode', 'pictures']) }),
  ),
  open: z.array(z.object({ files: z.array(FoundFile), of: z.array(OfClip), because: z.string() })),
  /** Files that are no proxy of a clip of the job, and why; also those that could not be read. */
  none: z.array(z.object({ file: FoundFile, because: z.string() })),
});
export type AdoptionView = z.infer<typeof AdoptionView>;

/** Files that are to be proxies of clips. */
export const Adopt = z.object({
  root: z.string().min(1),
  pairs: z
    .array(z.object({ path: z.string().min(1).max(4096), clip: z.string() }))
    .min(1)
    .max(100_000),
});
export type Adopt = z.infer<typeof Adopt>;

const LostFile = z.object({
  file: z.string(),
  clip: z.string(),
  name: ShownPath,
  card: z.string(),
  /** What it is to its clip: "original", "proxy". */
  role: z.string(),
  /** Where it was. */
  was: ShownPath,
});
const FoundPlace = z.object({ root: z.string(), rootName: z.string(), path: z.string(), shown: ShownPath });

/** Files of the job that are not at their places, and where each was found. */
export const LostView = z.object({
  /** How many files below the roots were looked at. */
  looked: z.int(),
  /** Found at one place only, by their contents, or by size and time where their contents are not known. */
  found: z.array(z.object({ lost: LostFile, at: FoundPlace, by: z.enum(['contents', 'sizeAndTime']) })),
  /** Found at several places, or one place for several. */
  open: z.array(z.object({ lost: LostFile, places: z.array(FoundPlace) })),
  none: z.array(LostFile),
  /** Roots that are offline, where nothing was looked for. */
  offline: z.array(z.string()),
  /** Roots with more in them than is looked at in one go. */
  inPart: z.array(z.string()),
});
export type LostView = z.infer<typeof LostView>;

/** The places that lost files are used from, from now on. */
export const TakeFound = z.object({
  files: z
    .array(z.object({ file: z.string(), root: z.string().min(1), path: z.string().min(1).max(4096) }))
    .min(1)
    .max(100_000),
});
export type TakeFound = z.infer<typeof TakeFound>;

/** What came of it; a file that is not at that place any more is left as it was. */
export const TakenFound = z.object({
  taken: z.int(),
  refused: z.array(z.object({ file: ShownPath, why: z.string() })),
});
export type TakenFound = z.infer<typeof TakenFound>;

/** What came of comparing the pairs of clips anew: of how many clips, and what was offline for how many others. */
export const Compared = z.object({
  checked: z.int(),
  offline: z.array(z.object({ why: z.string(), clips: z.int() })),
});
export type Compared = z.infer<typeof Compared>;

/** The same in a sentence. */
export const comparedInWords = ({ checked, offline }: Compared): string =>
  [
    `${plural(checked, 'clip')} compared.`,
    ...offline.map(({ why, clips }) => `${plural(clips, 'clip')} left as before: ${why}`),
  ].join(' ');
