import { z } from 'zod';
import { PathBelow, ShownPath } from './names';
import { ClipKind, FileRole } from './cards/shape';
import { Trust } from './facts/catalogue';
import { IntakeRules, OffloadProgress } from './copying/shapes';
import { DiskIdentity } from './custody/disks';
import { HashKind } from './exchange/hashes';
import { Convention, FolderPlan } from './naming/convention';
import { PairCheck, PairState } from './pairing/prove';
import { Step } from './plan/plan';
import { Rate } from './timecode/rate';

// The shapes that cross between server and interface. One definition each; types are inferred.

export const RootKind = z.enum(['source', 'safe', 'shelf', 'proxies', 'handover']);
export type RootKind = z.infer<typeof RootKind>;

/** `read` is the first pass over a clip's files, `rest` the second. */
export const WorkKind = z.enum(['read', 'rest', 'filmstrip', 'proxy']);
export type WorkKind = z.infer<typeof WorkKind>;
export const WorkState = z.enum(['queued', 'running', 'done', 'failed', 'cancelled']);
export type WorkState = z.infer<typeof WorkState>;

/** `doing` was begun and, seen at a start, was interrupted; `partly` left some clips where they were. */
export const PlanState = z.enum(['doing', 'done', 'partly', 'undone']);
export type PlanState = z.infer<typeof PlanState>;
export const StepState = z.enum(['waiting', 'doing', 'done', 'reverted', 'failed']);
export type StepState = z.infer<typeof StepState>;

export const LogKind = z.enum([
  'job',
  'takeIn',
  'copy',
  'check',
  'name',
  'undo',
  'proxy',
  'pair',
  'recovery',
  'root',
  'facts',
]);
export type LogKind = z.infer<typeof LogKind>;

/** Title of the problem that the database is damaged or gone. */
export const DATABASE_LOST = 'Database lost';

/** A JSON problem (RFC 9457), with the file it is about and what to do next. */
/** A place as a person reads it. */
const ShownPlace = z.object({ root: z.string(), path: ShownPath });

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
  title: z.string(),
  /** What it is about: a copy's id; null where it is about none in particular. */
  subject: z.string().nullable(),
  state: z.enum(['running', 'done', 'failed', 'stopped']),
  done: z.number(),
  total: z.number(),
  result: z.unknown(),
  problem: ProblemDetails.nullable(),
});
export type TaskView = z.infer<typeof TaskView>;
export const TaskBegun = z.object({ task: z.string() });

export const Health = z.object({
  ready: z.boolean(),
  version: z.string(),
  ffmpeg: z.string(),
  database: z.string(),
});
export type Health = z.infer<typeof Health>;

export const RootView = z.object({
  id: z.string(),
  kind: RootKind,
  name: z.string(),
  path: z.string(),
  present: z.boolean(),
  /** Bytes of its volume; null where the root is not there. */
  free: z.number().nullable(),
  total: z.number().nullable(),
  /** What tells its volume from others, and its name; null where the root is not there. */
  volume: z.string().nullable(),
  volumeName: z.string().nullable(),
  /** The physical disks under it, which tell whether two copies can be lost by one fault; null where the root is not there. */
  disk: DiskIdentity.nullable(),
});
export type RootView = z.infer<typeof RootView>;

export const JobView = z.object({
  name: z.string(),
  code: z.string(),
  zoneMinutes: z.int(),
  /** The hour at which a day begins, the rate of the edit (null while nothing tells), and the person's order of trust. */
  dayStart: z.int(),
  rate: Rate.nullable(),
  trust: Trust,
  convention: Convention,
  folderPlan: FolderPlan,
  intake: IntakeRules,
  days: z.array(z.object({ number: z.int(), date: z.string().nullable() })),
  cameras: z.array(z.object({ letter: z.string(), model: z.string().nullable() })),
  roots: z.array(RootView),
});
export type JobView = z.infer<typeof JobView>;

const code = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9-]{1,12}$/, 'a job code is one to twelve letters, digits or dashes');
export const NewJob = z.object({
  name: z.string().trim().min(1, 'give the job a name').max(120),
  code,
  /** Minutes the job's clocks are ahead of UTC; where the server stands when absent. */
  zoneMinutes: z.int().min(-840).max(840).optional(),
  cameras: z
    .array(z.object({ letter: z.string().regex(/^[A-Z]$/), model: z.string().max(80) }))
    .max(26)
    .optional(),
});
export type NewJob = z.infer<typeof NewJob>;
export const JobSettings = z.object({
  convention: Convention.optional(),
  folderPlan: FolderPlan.optional(),
  intake: IntakeRules.optional(),
  dayStart: z.int().min(0).max(23).optional(),
  rate: Rate.nullable().optional(),
  trust: Trust.optional(),
  /** Whether copies on drives that are offline count, as they were last seen. */
  offlineCounts: z.boolean().optional(),
  /** Whether servers of different addresses are different ones. */
  serversApart: z.boolean().optional(),
});
export type JobSettings = z.infer<typeof JobSettings>;

export const NewRoot = z.object({
  kind: z.enum(['source', 'safe', 'shelf']),
  path: z.string().min(1).max(4096),
});
export type NewRoot = z.infer<typeof NewRoot>;

export const FolderQuery = z.object({ root: z.string().min(1), path: PathBelow.default('') });

/** A folder to be looked at; `singles` are rows of numbered stills to be shown as single pictures. */
export const LookQuery = FolderQuery.extend({ singles: z.array(z.string()).max(10_000).default([]) });

/** One file below a root. */
export const FileQuery = z.object({
  root: z.string().min(1),
  path: PathBelow.refine((p) => p !== '', 'a file is needed'),
});
export type FileQuery = z.infer<typeof FileQuery>;

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
      /** Where the same recording stands in the job already; null where it is new. */
      here: z.object({ card: z.string(), name: ShownPath }).nullable(),
      files: z.array(z.object({ path: ShownPath, role: FileRole, size: z.number() })),
    }),
  ),
  /** Everything that was offered with it: all of the volume, or the folder that was looked at, with what else stands on that volume. */
  all: z.object({
    files: z.int(),
    bytes: z.number(),
    folder: ShownPath,
    wholeVolume: z.boolean(),
    outside: z.array(ShownPath),
  }),
  /** The card where it is one that was copied before: its ids in the job, files that are new since, and the hash its copies are known by. */
  known: z
    .object({
      physical: z.string(),
      labels: z.array(z.string()),
      label: z.string(),
      newFiles: z.int(),
      gone: z.int(),
      hash: HashKind.nullable(),
      lastSeen: z.string(),
    })
    .nullable(),
  aside: z.array(z.object({ path: ShownPath, size: z.number(), reason: z.string() })),
  proxySuffix: z.string().nullable(),
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

export const Looked = z.object({
  root: z.string(),
  path: z.string(),
  cards: z.array(LookedCard),
  aside: z.array(z.object({ path: ShownPath, size: z.number(), reason: z.string() })),
});
export type Looked = z.infer<typeof Looked>;

export const CardChoice = z.object({
  folder: PathBelow,
  camera: z.string().regex(/^[A-Z]$/, 'a camera is one capital letter'),
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
});
export type TakeIn = z.input<typeof TakeIn>;

export const PairView = z.object({
  state: PairState,
  checks: z.array(PairCheck),
  file: z.string().nullable(),
  made: z.boolean(),
});
export type PairView = z.infer<typeof PairView>;

export const ClipView = z.object({
  id: z.string(),
  card: z.string(),
  camera: z.string(),
  day: z.int(),
  /** The name it stands under now, and the camera's. */
  name: ShownPath,
  original: ShownPath,
  named: z.boolean(),
  kind: ClipKind,
  state: z.enum(['waiting', 'read', 'unreadable']),
  fault: z.string().nullable(),
  filmstrip: z.boolean(),
  rate: Rate.nullable(),
  frames: z.int().nullable(),
  seconds: z.number().nullable(),
  start: z.string().nullable(),
  end: z.string().nullable(),
  recordedAt: z.string().nullable(),
  codec: z.string().nullable(),
  picture: z.string().nullable(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  channels: z.int().nullable(),
  bytes: z.number(),
  files: z.int(),
  pair: PairView,
  problems: z.array(z.object({ level: z.enum(['stop', 'look']), text: z.string() })),
  playable: z.boolean(),
});
export type ClipView = z.infer<typeof ClipView>;

export const ClipDetail = ClipView.extend({
  facts: z.array(
    z.object({
      field: z.string(),
      group: z.string(),
      term: z.string(),
      value: z.string(),
      source: z.string(),
      others: z.array(z.object({ value: z.string(), source: z.string(), contradicts: z.boolean() })),
    }),
  ),
  family: z.array(
    z.object({ id: z.string(), role: FileRole, place: ShownPlace, rootName: z.string(), size: z.number() }),
  ),
  history: z.array(z.object({ at: z.string(), text: z.string() })),
});
export type ClipDetail = z.infer<typeof ClipDetail>;

export const CardView = z.object({
  id: z.string(),
  camera: z.string(),
  day: z.int(),
  shape: z.string(),
  folder: ShownPath,
  takenAt: z.string(),
  clips: z.int(),
  seconds: z.number(),
  bytes: z.number(),
  safe: z.int(),
  done: z.object({ read: z.int(), named: z.int(), proxied: z.int(), paired: z.int() }),
  stop: z.int(),
  look: z.int(),
  aside: z.int(),
  /** What is odd about the card as a whole: a clock that looks wrong, counter numbers missing, restarts, clips out of order. */
  oddities: z.array(z.string()),
});
export type CardView = z.infer<typeof CardView>;

export const Rolling = z.object({
  clip: z.string(),
  name: ShownPath,
  camera: z.string(),
  day: z.int(),
  from: z.number(),
  to: z.number(),
});
export type Rolling = z.infer<typeof Rolling>;
export const WallView = z.object({ cards: z.array(CardView), rolling: z.array(Rolling) });
export type WallView = z.infer<typeof WallView>;

export const NamingRequest = z.object({
  convention: Convention,
  folderPlan: FolderPlan,
  /** Cards whose clips are to be named; empty for all. */
  cards: z.array(z.string()).max(2000),
  /** Clips left out of the plan. */
  without: z.array(z.string()).max(100_000),
});
export type NamingRequest = z.infer<typeof NamingRequest>;

export const NamingRow = z.object({
  clipId: z.string(),
  original: ShownPath,
  current: ShownPath,
  extension: z.string(),
  card: z.string(),
  day: z.int(),
  parts: z.array(z.object({ blockId: z.string(), text: z.string() })),
  stem: z.string(),
  folder: z.string(),
  files: z.int(),
  steps: z.int(),
  out: z.boolean(),
  problems: z.array(z.object({ level: z.enum(['stop', 'look']), code: z.string(), text: z.string() })),
});
export type NamingRow = z.infer<typeof NamingRow>;

export const NamingPreview = z.object({
  rows: z.array(NamingRow),
  steps: z.int(),
  clips: z.int(),
  copies: z.int(),
  copyBytes: z.number(),
  stops: z.int(),
  looks: z.int(),
  /** The shelf as it would stand: folder, clips in it, whether this plan changes it. */
  shelf: z.array(z.object({ folder: z.string(), clips: z.int(), changed: z.boolean() })),
  /** Changes whenever the plan's steps change: what is applied is what was shown. */
  fingerprint: z.string(),
});
export type NamingPreview = z.infer<typeof NamingPreview>;

export const ApplyRequest = NamingRequest.extend({ fingerprint: z.string() });

export const PlanResult = z.object({
  planId: z.string(),
  state: PlanState,
  done: z.int(),
  failed: z.array(z.object({ file: ShownPath, fault: z.string() })),
});
export type PlanResult = z.infer<typeof PlanResult>;

export const LogEntry = z.object({
  id: z.string(),
  at: z.string(),
  who: z.string(),
  kind: LogKind,
  text: z.string(),
  planId: z.string().nullable(),
  undoable: z.boolean(),
  planState: PlanState.nullable(),
  steps: z.int(),
});
export type LogEntry = z.infer<typeof LogEntry>;
export const PlanDetail = z.object({
  id: z.string(),
  state: PlanState,
  steps: z.array(
    Step.extend({ from: ShownPlace, to: ShownPlace, state: StepState, fault: z.string().nullable() }),
  ),
});
export type PlanDetail = z.infer<typeof PlanDetail>;

export const WorkView = z.object({
  id: z.string(),
  kind: WorkKind,
  clip: z.string(),
  clipName: ShownPath,
  card: z.string(),
  state: WorkState,
  progress: z.number(),
  speed: z.number().nullable(),
  fault: z.string().nullable(),
  attempts: z.int(),
  seconds: z.number().nullable(),
  endedAt: z.string().nullable(),
});
export type WorkView = z.infer<typeof WorkView>;
/** Pieces of work queued or running, by kind; proxies one by one. */
export const WorkSummary = z.object({
  read: z.int(),
  rest: z.int(),
  filmstrip: z.int(),
  proxies: z.array(WorkView),
});
export type WorkSummary = z.infer<typeof WorkSummary>;

export const ProxiesView = z.object({
  recipe: z.object({ id: z.string(), name: z.string() }),
  needs: z.array(
    z.object({
      clip: z.string(),
      name: ShownPath,
      card: z.string(),
      because: z.string(),
      rate: z.string(),
      seconds: z.number(),
    }),
  ),
  estimate: z.object({
    bytes: z.number(),
    seconds: z.number(),
    timesRealTime: z.number(),
    measured: z.boolean(),
  }),
  pairs: z.array(
    z.object({
      clip: z.string(),
      name: ShownPath,
      card: z.string(),
      state: PairState,
      made: z.boolean(),
      reason: z.string(),
      checks: z.array(PairCheck),
      checkedAt: z.string().nullable(),
    }),
  ),
  work: z.array(WorkView),
});
export type ProxiesView = z.infer<typeof ProxiesView>;

export const MakeProxies = z.object({ clips: z.array(z.string()).max(100_000) });
export const WorkAction = z.object({
  action: z.enum(['cancel', 'retry']),
  work: z.array(z.string()).max(100_000),
});

/** What arrives by server-sent events: which views changed, and how the running work stands. */
export const ServerEvent = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('changed'),
    what: z.array(z.enum(['job', 'cards', 'clips', 'work', 'log', 'copies', 'tasks'])),
  }),
  z.object({
    type: z.literal('progress'),
    work: z.array(z.object({ id: z.string(), progress: z.number(), speed: z.number().nullable() })),
  }),
  z.object({ type: z.literal('copying'), copies: z.array(OffloadProgress) }),
  z.object({
    type: z.literal('running'),
    title: z.string(),
    done: z.int(),
    total: z.int(),
    /** Seconds left; null while unknown. */
    left: z.number().nullable(),
  }),
]);
export type ServerEvent = z.infer<typeof ServerEvent>;
