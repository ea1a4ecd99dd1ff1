import * as z from 'zod';
import { wordsFault } from '../../offload';
import { ImageKind } from '../../proxies';
import { REPORT_WORDS, ReportKind } from '../report/shapes';
import { NAME_PATTERN, namesFault } from './names';
import { USED_RECIPE, VIEW_RECIPE } from './parts';

/**
 * Which files of clips go: what the edit is given, the camera originals with what belongs to them, the used frames of each in files of their
 * own, sound recordings, looks, and what is made to be watched.
 */
export const Media = z.enum(['edit', 'original', 'used', 'sound', 'look', 'view']);
export type Media = z.infer<typeof Media>;
export const MEDIA_WORDS: Record<Media, string> = {
  edit: 'Editing media: proxies, or the originals where there are none',
  original: 'Camera originals, with the files that belong to them',
  used: 'Used frames, with handles',
  sound: 'Sound recordings',
  look: 'Looks',
  view: 'Viewing copies, with burnt-in name and timecode',
};
/** The folder of a package in which they stand. */
export const MEDIA_FOLDERS: Record<Media, string> = {
  edit: 'Edit',
  original: 'Originals',
  used: 'Used frames',
  sound: 'Sound',
  look: 'Looks',
  view: 'For viewing',
};

/** What is written beside the files. */
export const List = z.enum([
  'otio',
  'bins',
  'edl',
  'cdl',
  'facts',
  'marks',
  ...ReportKind.exclude(['wipe']).options,
]);
export type List = z.infer<typeof List>;
const REPORT_LISTS = Object.fromEntries(
  ReportKind.options.map((kind) => [kind, `${REPORT_WORDS[kind].name}, as PDF`]),
) as Record<ReportKind, string>;
export const LIST_WORDS: Record<List, string> = {
  ...REPORT_LISTS,
  otio: 'A timeline as OpenTimelineIO',
  bins: 'Bins, what rolled together, and string-outs, as one OpenTimelineIO collection',
  edl: 'A timeline as an edit decision list',
  cdl: 'Looks of the clips, as one collection of ASC CDLs',
  facts: 'Facts of the clips, as CSV',
  marks: 'Ranges, notes and keywords, as CSV',
};

/** What used frames go as: files of their own for each stretch, or an image for each frame. Forms of earlier versions do not say. */
export const UsedAs = z.enum(['files', ...ImageKind.options]);
export type UsedAs = z.infer<typeof UsedAs>;
export const USED_AS_WORDS: Record<UsedAs, string> = {
  files: 'A file for each range',
  dpx10: 'DPX image sequence, RGB, 10 bit',
  dpx16: 'DPX image sequence, RGB, 16 bit',
};

/** The pattern that one of one's own begins as. */
export const FOLDER_PATTERN = 'Day {day}/{camera}/{card}';
/** What is wrong with a pattern of folders below that of the kind of file, in words; null where nothing is. */
export const folderFault = (pattern: string): string | null =>
  pattern.trim() === '' ? 'give folders, such as {camera}/{card}' : wordsFault(pattern);

/** How what goes to one kind of recipient is put together. */
export const Form = z
  .object({
    name: z.string().trim().min(1, 'a form needs a name').max(60),
    media: z.array(Media).max(Media.options.length),
    /** Folders below that of the kind of file: none, one for each card, one for each day and in it each card, or by a pattern of one's own. */
    folders: z.enum(['one', 'card', 'day', 'own']),
    /** With words in braces, as folders of cards have them. Forms of earlier versions have none. */
    pattern: z.string().trim().max(200).default(FOLDER_PATTERN),
    /**
     * Whether editing media are called as their originals are, so that programs find that by its name; or what was made (proxies, used frames,
     * viewing copies) by a pattern of one's own. What a camera or recorder wrote keeps its name.
     */
    names: z.enum(['own', 'original', 'pattern']),
    /** With words in braces (`NAME_PATTERN_WORDS`). Forms of earlier versions have none. */
    namePattern: z.string().trim().max(200).default(NAME_PATTERN),
    lists: z.array(List).max(List.options.length),
    /** How many frames more on both sides of what is used; what those go as, and the recipe of files that cannot be cut without encoding them anew. */
    handles: z.int().min(0).max(1000),
    usedAs: UsedAs.default('files'),
    usedRecipe: z.string().min(1).max(80),
    /** The recipe of what is made to be watched. */
    viewRecipe: z.string().min(1).max(80),
  })
  .refine((f) => f.media.length + f.lists.length > 0, 'a form needs files, or a list')
  .superRefine(({ folders, pattern, names, namePattern }, context) => {
    const faults = [
      folders === 'own' ? folderFault(pattern) : null,
      names === 'pattern' ? namesFault(namePattern) : null,
    ];
    for (const message of faults) if (message !== null) context.addIssue({ code: 'custom', message });
  })
  .refine(
    (f) => new Set(f.media).size === f.media.length && new Set(f.lists).size === f.lists.length,
    'a form names each kind of file and each list once',
  );
export type Form = z.infer<typeof Form>;
export const FOLDER_WORDS: Record<Form['folders'], string> = {
  one: 'All in one folder',
  card: 'A folder for each card',
  day: 'A folder for each day, in it for each card',
  own: 'By a pattern of your own',
};
export const NAME_WORDS: Record<Form['names'], string> = {
  own: 'As they are called here',
  original: 'Editing media as their originals',
  pattern: 'By a pattern of your own',
};

const MADE: Pick<Form, 'pattern' | 'namePattern' | 'handles' | 'usedAs' | 'usedRecipe' | 'viewRecipe'> = {
  ...{ pattern: FOLDER_PATTERN, namePattern: NAME_PATTERN, handles: 12, usedAs: 'files' },
  ...{ usedRecipe: USED_RECIPE, viewRecipe: VIEW_RECIPE },
};

/** Forms that are always there. */
export const READY_FORMS: readonly Form[] = [
  {
    name: 'Edit',
    media: ['edit', 'sound'],
    folders: 'card',
    names: 'own',
    lists: ['otio', 'bins', 'facts', 'marks', 'camera'],
    ...MADE,
  },
  {
    name: 'Finishing',
    media: ['original', 'look'],
    folders: 'card',
    names: 'own',
    lists: ['otio', 'edl', 'cdl', 'facts'],
    ...MADE,
  },
  {
    name: 'Effects',
    media: ['used', 'look'],
    folders: 'one',
    names: 'own',
    lists: ['otio', 'facts'],
    ...MADE,
  },
  {
    name: 'Sound',
    media: ['sound', 'view'],
    folders: 'day',
    names: 'own',
    lists: ['edl', 'facts', 'marks', 'sound'],
    ...MADE,
  },
];

/** The images that used frames go as; null where they go as files of their own. */
export const imagesIn = ({ usedAs }: Pick<Form, 'usedAs'>): ImageKind | null =>
  ImageKind.safeParse(usedAs).data ?? null;

export const isReadyForm = (name: string): boolean =>
  READY_FORMS.some((f) => f.name.toLowerCase() === name.trim().toLowerCase());

/** Forms as a file, to be given to others. */
export const FormFile = z.object({
  format: z.literal('sort-shelf-forms'),
  version: z.literal(1),
  forms: z.array(Form).min(1).max(200),
});
export type FormFile = z.infer<typeof FormFile>;
