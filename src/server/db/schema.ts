import { boolean, customType, doublePrecision, index, integer, jsonb, pgTable, text, timestamp, uniqueIndex } from 'drizzle-orm/pg-core';
import type { Convention, FolderPlan } from '../../core/naming/convention';
import type { FieldId, Statement, Trust } from '../../core/facts/catalogue';
import type { Brief } from '../../core/facts/brief';
import type { ShownFacts } from '../../core/facts/table';
import type { Rate } from '../../core/timecode/rate';
import type { ClipKind, FileRole } from '../../core/cards/shape';
import { FIRST_INTAKE, type CheckReport, type IntakeRules, type OffloadDestination, type OffloadState } from '../../core/copying/shapes';
import type { Cannot } from '../../core/copying/wipe';
import type { Verification } from '../../core/copying/verification';
import type { ChosenHash, HashKind } from '../../core/exchange/hashes';
import type { AsideFile } from '../../core/cards/recognise';
import type { PairCheck } from '../../core/pairing/prove';
import type { StepKind } from '../../core/plan/plan';
import type { LogKind, PlanState, RootKind, StepState, WorkKind, WorkState } from '../../core/shapes';

/** Bytes and milliseconds since 1970: larger than 32 bits, well inside the integers a double holds. */
const whole = customType<{ data: number; driverData: string | number | bigint }>({ dataType: () => 'bigint', fromDriver: Number });
/**
 * JSON kept as text: a list of very many clips asks for it of all of them, and text comes several times as fast as jsonb,
 * which the database would write out anew for each.
 */
const written = <T>() => customType<{ data: T; driverData: string }>({ dataType: () => 'text', toDriver: (v) => JSON.stringify(v), fromDriver: (v) => JSON.parse(v) as T })();
const at = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });

export const roots = pgTable('roots', {
  id: text().primaryKey(),
  kind: text().$type<RootKind>().notNull(),
  name: text().notNull(),
  path: text().notNull().unique(),
});

export const jobs = pgTable('jobs', {
  id: text().primaryKey(),
  name: text().notNull(),
  code: text().notNull(),
  /** Minutes the job's clocks are ahead of UTC. */
  zoneMinutes: integer().notNull(),
  convention: jsonb().$type<Convention>().notNull(),
  folderPlan: jsonb().$type<FolderPlan>().notNull(),
  /** How cards are looked at and copied. */
  intake: jsonb().$type<IntakeRules>().notNull().default(FIRST_INTAKE),
  /** The hour at which a day begins: what is recorded before it belongs to the day before. */
  dayStart: integer().notNull().default(4),
  /** Frames a second of the edit; null while nobody said, then the clips tell. */
  rate: jsonb().$type<Rate>(),
  /** The person's own order of trust. */
  trust: jsonb().$type<Trust>().notNull().default({}),
});

export const days = pgTable('days', {
  number: integer().primaryKey(),
  /** yyyy-mm-dd; null where nobody said. */
  date: text(),
});

export const cameras = pgTable('cameras', {
  letter: text().primaryKey(),
  model: text(),
  /** What its clips say of it, remembered once a card of it was confirmed. */
  maker: text(),
  serials: jsonb().$type<string[]>().notNull().default([]),
});

/** A clock that was wrong: what is added to what a camera's clock said over a span of days. */
export const clocks = pgTable('clocks', {
  id: text().primaryKey(),
  camera: text().notNull().references(() => cameras.letter),
  fromDay: integer().notNull(),
  toDay: integer().notNull(),
  seconds: integer().notNull(),
  note: text().notNull(),
});

/** A named choice of fields, kept for tables and extractions. */
export const fieldSets = pgTable('field_sets', {
  id: text().primaryKey(),
  name: text().notNull().unique(),
  fields: jsonb().$type<FieldId[]>().notNull(),
});

/** What was read of files outside the job, kept so that the same files are not read again. */
export const readings = pgTable('readings', {
  /** Root and path below it. */
  place: text().primaryKey(),
  /** Of the family's files: sizes and times, and which reader read them. */
  state: text().notNull(),
  statements: jsonb().$type<Statement[]>().notNull(),
  fault: text(),
  notes: jsonb().$type<string[]>().notNull(),
});

export const cards = pgTable('cards', {
  /** The card's own id, "B002". */
  id: text().primaryKey(),
  camera: text().notNull().references(() => cameras.letter),
  day: integer().notNull().references(() => days.number),
  shape: text().notNull(),
  root: text().notNull().references(() => roots.id),
  /** Folder it was taken in from. */
  folder: text().notNull(),
  aside: jsonb().$type<AsideFile[]>().notNull(),
  proxySuffix: text(),
  takenAt: at('taken_at').notNull(),
});

export const clips = pgTable('clips', {
  id: text().primaryKey(),
  card: text().notNull().references(() => cards.id, { onUpdate: 'cascade' }),
  /** The name the camera gave, without extension. */
  original: text().notNull(),
  kind: text().$type<ClipKind>().notNull().default('video'),
  state: text().$type<'waiting' | 'read' | 'unreadable'>().notNull(),
  /** Why an unreadable clip is; null otherwise. */
  fault: text(),
  statements: jsonb().$type<Statement[]>().notNull(),
  /** Channels of each audio stream of the original, in order. */
  audio: jsonb().$type<number[]>().notNull(),
  filmstrip: boolean().notNull().default(false),
  /** What could not be read beside the original, in sentences. */
  notes: jsonb().$type<string[]>().notNull().default([]),
  /** Of the family's files as they were read: sizes and times, and which reader read them. Null before the first reading. */
  readAs: text(),
  /** The chosen facts as the table shows them, and in brief; worked out whenever a statement, an order of trust or a clock changes, null before. */
  shown: written<ShownFacts>(),
  brief: written<Brief>(),
}, (t) => [index('clips_card').on(t.card)]);

export const files = pgTable('files', {
  id: text().primaryKey(),
  clip: text().notNull().references(() => clips.id, { onDelete: 'cascade' }),
  role: text().$type<FileRole>().notNull(),
  root: text().notNull().references(() => roots.id),
  path: text().notNull(),
  /** Where it stood when it was taken in, in the same root or a source; null for what Sort Shelf made. */
  takenRoot: text(),
  takenPath: text(),
  suffix: text().notNull(),
  size: whole().notNull(),
  modified: whole().notNull(),
  /** Fingerprint of its contents (`sampleOf`); null where none was taken. */
  sample: text(),
}, (t) => [index('files_sample').on(t.sample), index('files_clip').on(t.clip), uniqueIndex('files_place').on(t.root, t.path)]);

export const pairs = pgTable('pairs', {
  file: text().primaryKey().references(() => files.id, { onDelete: 'cascade' }),
  clip: text().notNull().references(() => clips.id, { onDelete: 'cascade' }),
  state: text().$type<'proven' | 'unproven' | 'mismatched'>().notNull(),
  checks: jsonb().$type<PairCheck[]>().notNull(),
  checkedAt: at('checked_at').notNull(),
}, (t) => [index('pairs_clip').on(t.clip)]);

/** Everything the queue does, one row a piece of work: what the person sees of it. */
export const work = pgTable('work', {
  id: text().primaryKey(),
  kind: text().$type<WorkKind>().notNull(),
  clip: text().notNull().references(() => clips.id, { onDelete: 'cascade' }),
  state: text().$type<WorkState>().notNull(),
  /** 0 to 1. */
  progress: doublePrecision().notNull().default(0),
  /** Seconds of footage per second of work. */
  speed: doublePrecision(),
  fault: text(),
  attempts: integer().notNull().default(0),
  queuedAt: at('queued_at').notNull(),
  startedAt: at('started_at'),
  endedAt: at('ended_at'),
}, (t) => [index('work_state').on(t.state), index('work_clip').on(t.clip)]);

/** One copying of one card: from where, to where, and how far it is. */
export const offloads = pgTable('offloads', {
  id: text().primaryKey(),
  card: text().notNull(),
  root: text().notNull(),
  /** The card's folder below its root. */
  folder: text().notNull(),
  state: text().$type<OffloadState>().notNull(),
  verification: text().$type<Verification>().notNull(),
  hash: text().$type<ChosenHash>().notNull(),
  destinations: jsonb().$type<OffloadDestination[]>().notNull(),
  files: integer().notNull(),
  bytes: whole().notNull(),
  /** Empty folders, which a verbatim copy has too. */
  emptyFolders: jsonb().$type<string[]>().notNull(),
  /** What is no plain file, with the reason it cannot be copied. */
  cannot: jsonb().$type<Cannot[]>().notNull(),
  /** Why it waits, or what went wrong at its end. */
  fault: text(),
  /** Bytes per second while it ran; null before its end. */
  speed: doublePrecision(),
  queuedAt: at('queued_at').notNull(),
  startedAt: at('started_at'),
  endedAt: at('ended_at'),
}, (t) => [index('offloads_card').on(t.card)]);

/** The files of a copying, as they stood on the card when it was begun. */
export const offloadFiles = pgTable('offload_files', {
  offload: text().notNull().references(() => offloads.id, { onDelete: 'cascade' }),
  number: integer().notNull(),
  /** Below the card's folder. */
  path: text().notNull(),
  size: whole().notNull(),
  modified: whole().notNull(),
  /** Which destinations it goes to, by their numbers; none where it is left on the card. */
  to: jsonb().$type<number[]>().notNull(),
  /** The file of a clip that it is; null for files no clip has. */
  file: text(),
  state: text().$type<'waiting' | 'verified' | 'failed' | 'left'>().notNull(),
  hash: text(),
  fault: text(),
  /** What the person should know although the copy is good. */
  note: text(),
}, (t) => [uniqueIndex('offload_files_number').on(t.offload, t.number)]);

/** A finished safe copy, with what is known of it now. */
export const safeCopies = pgTable('safe_copies', {
  id: text().primaryKey(),
  card: text().notNull(),
  offload: text().notNull(),
  /** Its number among the destinations of its copying. */
  destination: integer().notNull(),
  root: text().notNull(),
  folder: text().notNull(),
  verification: text().$type<Verification>().notNull(),
  hash: text().$type<HashKind>().notNull(),
  verifiedAt: at('verified_at').notNull(),
  /** The last check of it; null before one. */
  check: jsonb().$type<CheckReport>(),
}, (t) => [index('safe_copies_card').on(t.card)]);

export const plans = pgTable('plans', {
  id: text().primaryKey(),
  kind: text().$type<'name' | 'undo'>().notNull(),
  state: text().$type<PlanState>().notNull(),
  /** The plan this one takes back. */
  undoes: text(),
  madeAt: at('made_at').notNull(),
  endedAt: at('ended_at'),
});

export const steps = pgTable('steps', {
  plan: text().notNull().references(() => plans.id, { onDelete: 'cascade' }),
  number: integer().notNull(),
  clip: text().notNull(),
  file: text().notNull(),
  kind: text().$type<StepKind>().notNull(),
  fromRoot: text().notNull(),
  fromPath: text().notNull(),
  toRoot: text().notNull(),
  toPath: text().notNull(),
  size: whole().notNull(),
  modified: whole().notNull(),
  state: text().$type<StepState>().notNull(),
  fault: text(),
}, (t) => [uniqueIndex('steps_number').on(t.plan, t.number)]);

export const log = pgTable('log', {
  id: text().primaryKey(),
  at: at('at').notNull(),
  who: text().notNull(),
  kind: text().$type<LogKind>().notNull(),
  text: text().notNull(),
  plan: text(),
}, (t) => [index('log_at').on(t.at)]);
