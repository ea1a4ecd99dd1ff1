import * as z from 'zod';
import { ShownPath } from './names';

// The shapes that cross between server and interface, here those of no feature; each feature has its own. One definition
// each; types are inferred.

/** All long work. `read` is the first pass over a clip's files, `rest` the second. */
export const WorkKind = z.enum([
  'read',
  'rest',
  'filmstrip',
  'proxy',
  'copy',
  'check',
  'checkFolder',
  'name',
  'undo',
  'prove',
  'watchThrough',
  'adopt',
  'findLost',
  'listen',
  'extract',
  'handover',
  'checkHandover',
  'movePlace',
]);
export type WorkKind = z.infer<typeof WorkKind>;
export const WORK_WORDS: Record<WorkKind, string> = {
  read: 'Reading',
  rest: 'Reading',
  filmstrip: 'Making filmstrips',
  proxy: 'Making proxies',
  copy: 'Copying',
  check: 'Checking a copy',
  checkFolder: 'Checking a folder',
  name: 'Naming',
  undo: 'Taking names back',
  prove: 'Proving pairs',
  watchThrough: 'Checking picture and sound',
  adopt: 'Looking for proxies',
  findLost: 'Looking for lost files',
  listen: 'Comparing sound',
  extract: 'Extracting facts',
  handover: 'Handing over',
  checkHandover: 'Checking a package',
  movePlace: 'Moving a place',
};
/** What a person asks for by itself, and may stop by itself. */
export const ASKED = [
  'check',
  'checkFolder',
  'name',
  'undo',
  'prove',
  'watchThrough',
  'adopt',
  'findLost',
  'listen',
  'extract',
  'checkHandover',
  'movePlace',
] as const satisfies WorkKind[];
/** What is `paused` goes on when a person says so, what is `waiting` when what it waits for is there. */
export const WorkState = z.enum(['queued', 'running', 'paused', 'waiting', 'done', 'failed', 'cancelled']);
export type WorkState = z.infer<typeof WorkState>;
/** Of work that has not ended. */
export const OPEN_WORK = ['queued', 'running', 'paused', 'waiting'] as const satisfies WorkState[];

/** Title of the problem that the database is damaged or gone. */
export const DATABASE_LOST = 'Database lost';

/** A JSON problem (RFC 9457), with the file it is about and what to do next. */
export const ProblemDetails = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string(),
  file: ShownPath.optional(),
  next: z.string().optional(),
});
export type ProblemDetails = z.infer<typeof ProblemDetails>;

/** Long work that a request began: how far it is, and in the end what came of it. */
export const TaskView = z.object({
  id: z.string(),
  kind: WorkKind,
  title: z.string(),
  /** The job it belongs to, by its id. */
  job: z.string(),
  /** What it is about: a copy's id; null where it is about none in particular. */
  subject: z.string().nullable(),
  state: WorkState,
  done: z.number(),
  total: z.number(),
  result: z.unknown(),
  problem: ProblemDetails.nullable(),
});
export type TaskView = z.infer<typeof TaskView>;
/** What was done, in words, and by which it is undone; null where nothing was to be changed. */
export const Changed = z.object({ text: z.string(), undo: z.string().nullable() });
export type Changed = z.infer<typeof Changed>;
/** What is to be undone. */
export const UndoAsked = z.object({ id: z.string().max(64) });

export const TaskBegun = z.object({ task: z.string() });

export const Health = z.object({
  ready: z.boolean(),
  version: z.string(),
  ffmpeg: z.string(),
  database: z.string(),
});
export type Health = z.infer<typeof Health>;

export const WorkView = z.object({
  id: z.string(),
  kind: WorkKind,
  clip: z.string(),
  /** By which recipe, of what is made; null where the rules of the job say it when its turn comes. */
  recipe: z.string().nullable(),
  clipName: ShownPath,
  card: z.string(),
  state: WorkState,
  progress: z.number(),
  speed: z.number().nullable(),
  fault: z.string().nullable(),
  attempts: z.int(),
  /** What happened to it beside its beginning and end. */
  notes: z.array(z.object({ at: z.string(), text: z.string() })),
  seconds: z.number().nullable(),
  endedAt: z.string().nullable(),
});
export type WorkView = z.infer<typeof WorkView>;
/** Pieces of work queued, running or paused, by kind; proxies one by one, with those that wait for something. */
export const WorkSummary = z.object({
  /** What is waited for, in a sentence, and for how many clips; most first. */
  waiting: z.array(z.object({ why: z.string(), clips: z.int() })),
  read: z.int(),
  rest: z.int(),
  filmstrip: z.int(),
  proxies: z.array(WorkView),
});
export type WorkSummary = z.infer<typeof WorkSummary>;
/** Clips that a person has chosen, by their ids. */
export const ChosenClips = z.object({ clips: z.array(z.string()).max(100_000) });
export const WorkAction = z.object({
  /** `first` has it done before all other of its kind. */
  action: z.enum(['cancel', 'pause', 'resume', 'retry', 'first']),
  work: z.array(z.string()).max(100_000),
});
export type WorkAction = z.infer<typeof WorkAction>;

/** What the server tells of itself while it runs: which views changed, and how far the running work is. */
export const PlatformEvent = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('opened'),
    /** Milliseconds since the last change, or since the server began. */
    quiet: z.number(),
  }),
  z.object({
    type: z.literal('changed'),
    what: z.array(
      z.enum([
        'job',
        'cards',
        'clips',
        'choose',
        'work',
        'log',
        'copies',
        'tasks',
        'packages',
        'places',
        'watches',
        'next',
      ]),
    ),
  }),
  z.object({
    type: z.literal('progress'),
    work: z.array(z.object({ id: z.string(), progress: z.number(), speed: z.number().nullable() })),
  }),
  z.object({
    type: z.literal('running'),
    /** The job it belongs to, by its id; null for what is of none. */
    job: z.string().nullable(),
    title: z.string(),
    done: z.int(),
    total: z.int(),
    /** Seconds left; null while unknown. */
    left: z.number().nullable(),
  }),
]);
export type PlatformEvent = z.infer<typeof PlatformEvent>;
