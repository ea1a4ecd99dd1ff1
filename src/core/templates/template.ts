import * as z from 'zod';
import { ChoiceSet } from '../choose';
import { FieldSet, Trust } from '../facts';
import { IntakeRules } from '../intake';
import { NewJob } from '../jobs';
import { Convention, FolderPlan, NamingMore } from '../naming';
import { cardFolder } from '../offload';
import { FullPath } from '../places';
import { CameraLabel } from '../platform/cameraLabel';
import { Rate } from '../platform/timecode/rate';
import { ProxyRules, Recipe } from '../proxies';
import { WatchOptions } from '../watch';

// What a job has been told once, so that the next one need not be told again. Nothing of its footage is in it, and no place.

const WatchedPath = z
  .string()
  .min(1)
  .max(400)
  .refine(
    (p) => !p.replaceAll('{job}', '').includes('{'),
    'of a watched folder only {job} can be told later',
  );

/** The folder that a watched folder of a template is in a job. */
export const watchedFolder = (path: string, code: string): string =>
  cardFolder(path, { job: code, day: 0, date: null, camera: '', card: '' });

const Shape = z.object({
  name: z.string().trim().min(1, 'give the template a name').max(80),
  note: z.string().max(500).default(''),
  /** Minutes the job's clocks are ahead of UTC; null where the new job's computer says. */
  zoneMinutes: z.int().min(-840).max(840).nullable().default(null),
  dayStart: z.int().min(0).max(23),
  rate: Rate.nullable(),
  /** The order of trust between sources of facts. */
  trust: Trust,
  convention: Convention,
  folderPlan: FolderPlan,
  naming: NamingMore,
  proxies: ProxyRules,
  intake: IntakeRules,
  cameras: z
    .array(z.object({ label: CameraLabel, model: z.string().max(80).nullable() }))
    .max(100)
    .default([]),
  choice: ChoiceSet.prefault({}),
  /** Folders that are watched, below the job's own; `{job}` in a path is its code. */
  watches: z
    .array(z.object({ path: WatchedPath, options: WatchOptions }))
    .max(50)
    .default([]),
  /** Kept in the library, for every job: a template from elsewhere brings them along. */
  fieldSets: z.array(FieldSet).max(200).default([]),
  recipes: z.array(Recipe).max(200).default([]),
});

const hereOnly = (plan: FolderPlan): FolderPlan => ({
  ...plan,
  root: null,
  roles: Object.fromEntries(
    Object.entries(plan.roles).map(([role, place]) => [role, place && { ...place, root: null }]),
  ),
});

/** Takes out what is of one computer alone: places by their ids, and rules of single folders. */
const portable = (t: z.infer<typeof Shape>): z.infer<typeof Shape> => ({
  ...t,
  folderPlan: hereOnly(t.folderPlan),
  naming: {
    ...t.naming,
    rules: t.naming.rules.map((r) => ({ ...r, folderPlan: hereOnly(r.folderPlan) })),
  },
  intake: { ...t.intake, folders: {} },
});

/** A template. Whatever place it names is left out. */
export const Template = Shape.transform(portable);
export type Template = z.infer<typeof Template>;

/** Templates as a file, to be given to others. */
export const TemplateFile = z.object({
  format: z.literal('sort-shelf-templates'),
  version: z.literal(1, 'it was written by a newer version of Sort Shelf'),
  templates: z.array(Template).min(1).max(200),
});
export type TemplateFile = z.infer<typeof TemplateFile>;

/** The parts of a template that a job takes over, each by itself. */
export const TemplatePart = z.enum([
  'naming',
  'proxies',
  'intake',
  'days',
  'cameras',
  'choice',
  'library',
  'watches',
]);
export type TemplatePart = z.infer<typeof TemplatePart>;

export const PART_WORDS: Readonly<Record<TemplatePart, string>> = {
  naming: 'Convention and folders',
  proxies: 'Proxies',
  intake: 'How cards are recognised and copied',
  days: 'Days, rate and trust',
  cameras: 'Cameras',
  choice: 'Keywords, bins and searches',
  library: 'Field sets and recipes',
  watches: 'Watched folders',
};

export const TemplatesView = z.array(z.object({ id: z.string(), ready: z.boolean(), template: Template }));
export type TemplatesView = z.infer<typeof TemplatesView>;

/** What would change in a job, by part; a part without lines changes nothing. */
export const TakenParts = z.array(z.object({ part: TemplatePart, changes: z.array(z.string()) }));
export type TakenParts = z.infer<typeof TakenParts>;

export const TakeParts = z.object({
  template: z.string().min(1).max(120),
  parts: z.array(TemplatePart).min(1),
});
export type TakeParts = z.infer<typeof TakeParts>;

export const KeepTemplate = z.object({
  name: z.string().trim().min(1, 'give the template a name').max(80),
  note: z.string().max(500).default(''),
  /** Whether one of that name is replaced. */
  replace: z.boolean().default(false),
});
export type KeepTemplate = z.input<typeof KeepTemplate>;

/** A job that begins by a template. */
export const NewFromTemplate = NewJob.omit({ zoneMinutes: true, cameras: true, rate: true }).extend({
  template: z.string().min(1).max(120),
  /** Its own folder, which becomes a place to name and sort in; the shelf of the data folder where none is said. */
  folder: FullPath.nullable().default(null),
});
export type NewFromTemplate = z.input<typeof NewFromTemplate>;

/** A job that was begun. */
export const BegunJob = z.object({
  code: z.string(),
  /** Its own folder; null where it has none but the shelf of the data folder. */
  root: z.string().nullable(),
  /** What of what it was to begin with could not be taken over. */
  warnings: z.array(z.string()),
});
export type BegunJob = z.infer<typeof BegunJob>;
