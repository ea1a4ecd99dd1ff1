import { sql } from 'drizzle-orm';
import {
  foreignKey,
  bigserial,
  boolean,
  customType,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgEnum,
  pgTable,
  primaryKey,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core';
import type { Convention, FolderPlan, StepKind, PlanState, StepState } from '../../../core/naming';
import {
  type Brief,
  FIELDS,
  type FieldId,
  Source,
  type Statement,
  type Trust,
  type Value,
} from '../../../core/facts';
import type { Rate } from '../../../core/platform/timecode/rate';
import {
  type ClipKind,
  type FileRole,
  FIRST_INTAKE,
  type IntakeRules,
  type AsideFile,
} from '../../../core/intake';
import type { DiskIdentity } from '../../../core/platform/disks';
import type { Cannot, CheckReport, CopyReading } from '../../../core/custody';
import type { OffloadDestination, OffloadState, Verification } from '../../../core/offload';
import type { ChosenHash, HashKind } from '../../../core/hashLists';
import type { PairCheck } from '../../../core/proxies';
import type { LogKind } from '../../../core/logbook';
import type { RootKind } from '../../../core/places';
import type { WorkKind, WorkState } from '../../../core/platform/shapes';

/** Bytes and milliseconds since 1970: larger than 32 bits, well inside the integers a double holds. */
const whole = customType<{ data: number; driverData: string | number | bigint }>({
  dataType: () => 'bigint',
  fromDriver: Number,
});
/**
 * JSON kept as text: a list of very many clips asks for it of all of them, and text comes several times as fast as jsonb,
 * which the database would write out anew for each.
 */
const written = <T>() =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'text',
    toDriver: (v) => JSON.stringify(v),
    fromDriver: (v) => JSON.parse(v) as T,
  })();
const at = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });

/** This database among others: its records beside the footage are told apart by it. One row. */
export const library = pgTable('library', {
  id: text().primaryKey(),
  madeAt: at('made_at').notNull(),
  /** Every run of the server it was opened in: a record of another run is of a later state of it. */
  runs: jsonb().$type<string[]>().notNull().default([]),
  /** The record it was rebuilt from: one of the same database that goes further knows more. */
  rebuiltFrom: jsonb().$type<{ library: string; upTo: number }>(),
});

/** Rows that were deleted or given another key, kept by triggers (migration 0004) for the records beside the footage. */
export const removedRows = pgTable('removed_rows', {
  seq: bigserial({ mode: 'number' }).primaryKey(),
  kind: text().notNull(),
  key: jsonb().$type<(string | number)[]>().notNull(),
});

export const roots = pgTable('roots', {
  id: text().primaryKey(),
  kind: text().$type<RootKind>().notNull(),
  name: text().notNull(),
  path: text().notNull().unique(),
});

export const jobs = pgTable(
  'jobs',
  {
    id: text().primaryKey(),
    /** Its number in this database, for its facts. */
    number: serial().notNull().unique(),
    name: text().notNull(),
    /** Names it in addresses; no other job has it, whatever its case. */
    code: text().notNull(),
    begunAt: at('begun_at').notNull().defaultNow(),
    /** When it was put away; null while it is open. */
    putAwayAt: at('put_away_at'),
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
    /** Whether copies on drives that are not connected count, as they were last seen, where it is asked whether a card may be wiped. */
    offlineCounts: boolean().notNull().default(false),
    /** Whether servers of different addresses are different ones, as the person says. */
    serversApart: boolean().notNull().default(false),
  },
  (t) => [uniqueIndex('jobs_code').on(sql`lower(${t.code})`)],
);

/** The job a row belongs to. */
const ofJob = () =>
  text()
    .notNull()
    .references(() => jobs.id);

export const days = pgTable(
  'days',
  {
    job: ofJob(),
    number: integer().notNull(),
    /** yyyy-mm-dd; null where nobody said. */
    date: text(),
  },
  (t) => [primaryKey({ columns: [t.job, t.number] })],
);

export const cameras = pgTable(
  'cameras',
  {
    job: ofJob(),
    label: text().notNull(),
    model: text(),
    /** What its clips say of it, remembered once a card of it was confirmed. */
    maker: text(),
    serials: jsonb().$type<string[]>().notNull().default([]),
  },
  (t) => [primaryKey({ columns: [t.job, t.label] })],
);

/** A clock that was wrong: what is added to what a camera's clock said over a span of days. */
export const clocks = pgTable(
  'clocks',
  {
    id: text().primaryKey(),
    job: ofJob(),
    camera: text().notNull(),
    fromDay: integer().notNull(),
    toDay: integer().notNull(),
    seconds: integer().notNull(),
    note: text().notNull(),
  },
  (t) => [foreignKey({ columns: [t.job, t.camera], foreignColumns: [cameras.job, cameras.label] })],
);

/** A named choice of fields, kept for tables and extractions of every job. */
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

/** A physical card: one offload of it, known by its manifest (`cardFiles`). Labels come and go; what is proven belongs to this. */
export const physicalCards = pgTable('physical_cards', {
  id: text().primaryKey(),
  /** What it was called last; only a label. */
  label: text().notNull(),
  /** The volume or folder that was offered last, where all its paths begin. */
  root: text().notNull(),
  folder: text().notNull(),
  /** Identity of its volume; null where the system does not say. */
  volume: text(),
  /** The disk it stands on, which is wiped with it; null where that is the system's own volume, which is not. */
  disk: jsonb().$type<DiskIdentity>(),
  /** Whether the folder is all of its volume, and what else stands on the volume outside of it. */
  wholeVolume: boolean().notNull(),
  outside: jsonb().$type<string[]>().notNull(),
  /** What could not be copied or looked at, when it was offered last. */
  cannot: jsonb().$type<Cannot[]>().notNull(),
  firstSeen: at('first_seen').notNull(),
  lastSeen: at('last_seen').notNull(),
});

/** The manifest of a physical card: everything that ever stood on it. A row is never altered but for `goneAt`. */
export const cardFiles = pgTable(
  'card_files',
  {
    card: text()
      .notNull()
      .references(() => physicalCards.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    /** Below the card's folder, as the disk has it (`core/names`). */
    path: text().notNull(),
    size: whole().notNull(),
    modified: whole().notNull(),
    /** Fingerprint of its contents (`sampleOf`); null for what is no recording. */
    sample: text(),
    /** When the card was offered without it, or with another version of it; null while it is there. */
    goneAt: at('gone_at'),
  },
  (t) => [primaryKey({ columns: [t.card, t.number] }), index('card_files_sample').on(t.sample)],
);

/** What a file gave when it was read from the card: a row for each reading, the newest counts. */
export const cardReadings = pgTable(
  'card_readings',
  {
    seq: bigserial({ mode: 'number' }).primaryKey(),
    card: text()
      .notNull()
      .references(() => physicalCards.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    kind: text().$type<HashKind>().notNull(),
    value: text().notNull(),
    at: at('at').notNull(),
  },
  (t) => [index('card_readings_file').on(t.card, t.number)],
);

export const cards = pgTable(
  'cards',
  {
    job: ofJob(),
    /** The card's own id in its job, "B002": a label. */
    id: text().notNull(),
    /** The physical card it names; null where footage is used in place and was never copied. */
    physical: text().references(() => physicalCards.id),
    camera: text().notNull(),
    day: integer().notNull(),
    shape: text().notNull(),
    root: text()
      .notNull()
      .references(() => roots.id),
    /** Folder it was taken in from. */
    folder: text().notNull(),
    aside: jsonb().$type<AsideFile[]>().notNull(),
    proxySuffix: text(),
    takenAt: at('taken_at').notNull(),
    /** How many clips it has, counted by triggers. */
    clips: integer().notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.job, t.id] }),
    foreignKey({ columns: [t.job, t.camera], foreignColumns: [cameras.job, cameras.label] }),
    foreignKey({ columns: [t.job, t.day], foreignColumns: [days.job, days.number] }),
    index('cards_physical').on(t.physical),
  ],
);

export const clips = pgTable(
  'clips',
  {
    id: text().primaryKey(),
    job: ofJob(),
    card: text().notNull(),
    /** The name the camera gave, without extension. */
    original: text().notNull(),
    kind: text().$type<ClipKind>().notNull().default('video'),
    state: text().$type<'waiting' | 'read' | 'unreadable'>().notNull(),
    /** Why an unreadable clip is; null otherwise. */
    fault: text(),
    /** Channels of each audio stream of the original, in order. */
    audio: jsonb().$type<number[]>().notNull(),
    filmstrip: boolean().notNull().default(false),
    /** What could not be read beside the original, in sentences. */
    notes: jsonb().$type<string[]>().notNull().default([]),
    /** Of the family's files as they were read: sizes and times, and which reader read them. Null before the first reading. */
    readAs: text(),
  },
  (t) => [
    index('clips_card').on(t.job, t.card),
    foreignKey({ columns: [t.job, t.card], foreignColumns: [cards.job, cards.id] }).onUpdate('cascade'),
  ],
);

/** What a person says of a clip: no reading touches it. */
export const said = pgTable(
  'said',
  {
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    field: text().$type<FieldId>().notNull(),
    value: jsonb().$type<Value>().notNull(),
    seq: bigserial({ mode: 'number' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.clip, t.field] })],
);

/**
 * What lists show of a clip, one row for each (made with the clip, by a trigger): worked out of its facts. Whatever a clip's facts
 * follow from gives it another revision, by triggers (migration 0009), so that no use case can forget to.
 */
export const shown = pgTable(
  'shown',
  {
    /** The clip's number in this database: its facts are very many, and a number is short. */
    number: serial().primaryKey(),
    clip: text()
      .notNull()
      .unique()
      .references(() => clips.id, { onDelete: 'cascade' }),
    job: text().notNull(),
    /** As the clip has it, for lists of a card, camera or day. */
    card: text().notNull(),
    revision: integer().notNull().default(1),
    /** The revision it was worked out at. */
    workedOut: integer().notNull().default(0),
    /** A column of its own, so that the database counts how few these are. */
    stale: boolean().generatedAlwaysAs(sql`revision <> worked_out`),
    /** The name it stands under, and that as it is sorted. */
    name: text().notNull().default(''),
    sort: text().notNull().default(''),
    /** When it was recorded by the job's clock, in seconds since 1970; infinite where nothing says so. */
    recorded: doublePrecision()
      .notNull()
      .default(sql`'infinity'`),
    brief: written<Brief>(),
    /** All words of it, in lower case, to be looked through (`textOf`). */
    text: text().notNull().default(''),
  },
  (t) => [
    index('shown_order').on(t.job, t.recorded, sql`${t.sort} collate "C"`, t.number),
    index('shown_name').on(t.job, sql`${t.sort} collate "C"`, t.number),
    index('shown_card').on(t.job, t.card),
    index('shown_stale')
      .on(t.job)
      .where(sql`stale`),
  ],
);

export const factField = pgEnum('fact_field', FIELDS.map((f) => f.id) as [FieldId, ...FieldId[]]);
export const factSource = pgEnum('fact_source', Source.options as [Source, ...Source[]]);

/**
 * A clip's facts, a row for each field and source: what was read, what the person says, what stands on disk, and what follows from
 * them. The one that lists show is the chosen one.
 */
export const facts = pgTable(
  'facts',
  {
    /** Its number among what is shown; what has none any more goes, by a trigger. */
    clip: integer().notNull(),
    /** The job's number. */
    job: integer().notNull(),
    field: factField().notNull(),
    source: factSource().notNull(),
    chosen: boolean().notNull(),
    /** As a person reads it. */
    words: text().notNull(),
    /** By which it is sorted, where it is a number. */
    number: doublePrecision(),
    /** By which it is sorted, where it is none. */
    sort: text(),
    /** The value, where words and number do not say it exactly (`statementOf`). */
    value: jsonb().$type<Value>(),
  },
  (t) => [
    primaryKey({ columns: [t.clip, t.field, t.source] }),
    index('facts_chosen')
      .on(t.job, t.field, t.number, sql`${t.sort} collate "C"`, t.clip, t.words)
      .where(sql`chosen`),
  ],
);

export const files = pgTable(
  'files',
  {
    id: text().primaryKey(),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    role: text().$type<FileRole>().notNull(),
    root: text()
      .notNull()
      .references(() => roots.id),
    path: text().notNull(),
    /** Where it stood when it was taken in, in the same root or a source; null for what Sort Shelf made. */
    takenRoot: text(),
    takenPath: text(),
    suffix: text().notNull(),
    size: whole().notNull(),
    modified: whole().notNull(),
    /** Fingerprint of its contents (`sampleOf`); null where none was taken. */
    sample: text(),
    /** The physical card it still stands on: its place is where that card was last, and another card may be there now. Null elsewhere. */
    onCard: text('on_card'),
  },
  (t) => [
    index('files_sample').on(t.sample),
    index('files_clip').on(t.clip),
    uniqueIndex('files_place')
      .on(t.root, t.path)
      .where(sql`on_card is null`),
    uniqueIndex('files_place_on_card')
      .on(t.onCard, t.path)
      .where(sql`on_card is not null`),
  ],
);

export const pairs = pgTable(
  'pairs',
  {
    file: text()
      .primaryKey()
      .references(() => files.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    state: text().$type<'proven' | 'unproven' | 'mismatched'>().notNull(),
    checks: jsonb().$type<PairCheck[]>().notNull(),
    checkedAt: at('checked_at').notNull(),
  },
  (t) => [index('pairs_clip').on(t.clip)],
);

/** Everything the queue does, one row a piece of work: what the person sees of it. */
export const work = pgTable(
  'work',
  {
    id: text().primaryKey(),
    job: ofJob(),
    kind: text().$type<WorkKind>().notNull(),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    state: text().$type<WorkState>().notNull(),
    /** Who works on it, while somebody does. */
    worker: text(),
    /** Its turn among the jobs' work (`Turns`), and whether the queue was told of it. */
    turn: integer().notNull().default(0),
    handedOut: boolean().notNull().default(false),
    /** 0 to 1. */
    progress: doublePrecision().notNull().default(0),
    /** Seconds of footage per second of work. */
    speed: doublePrecision(),
    fault: text(),
    attempts: integer().notNull().default(0),
    /** How often the server ended in the middle of it. */
    crashes: integer().notNull().default(0),
    queuedAt: at('queued_at').notNull(),
    startedAt: at('started_at'),
    endedAt: at('ended_at'),
  },
  (t) => [
    index('work_state').on(t.job, t.state),
    index('work_open').on(t.kind, t.state),
    index('work_clip').on(t.clip),
  ],
);

/** One copying of one card: from where, to where, and how far it is. */
export const offloads = pgTable(
  'offloads',
  {
    id: text().primaryKey(),
    job: ofJob(),
    /** The card's label when it was begun. */
    card: text().notNull(),
    physical: text()
      .notNull()
      .references(() => physicalCards.id),
    root: text().notNull(),
    /** The card's folder below its root: all of the volume, or the folder that was offered. */
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
  },
  (t) => [index('offloads_physical').on(t.physical)],
);

/** The files of a copying, as they stood on the card when it was begun. */
export const offloadFiles = pgTable(
  'offload_files',
  {
    offload: text()
      .notNull()
      .references(() => offloads.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    /** Its number in the card's manifest. */
    cardFile: integer().notNull(),
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
  },
  (t) => [uniqueIndex('offload_files_number').on(t.offload, t.number)],
);

/** A safe copy of a physical card, made by one copying: what it proves stands in `copyReadings`. */
export const safeCopies = pgTable(
  'safe_copies',
  {
    id: text().primaryKey(),
    physical: text()
      .notNull()
      .references(() => physicalCards.id),
    offload: text().notNull(),
    /** Its number among the destinations of its copying. */
    destination: integer().notNull(),
    root: text().notNull(),
    folder: text().notNull(),
    verification: text().$type<Verification>().notNull(),
    hash: text().$type<HashKind>().notNull(),
    madeAt: at('made_at').notNull(),
    /** How many files its hash list names. */
    listed: integer().notNull().default(0),
    /** The volume and the disks it stood on when it was made or checked last. */
    volume: text(),
    disk: jsonb().$type<DiskIdentity>().notNull(),
    /** When all or some of it was last seen standing there, and the numbers of files that were not as recorded then. */
    seenAt: at('seen_at'),
    notAsRecorded: jsonb('not_as_recorded').$type<number[]>().notNull().default([]),
    /** What the last check found, in words and figures. Null before one. */
    check: jsonb().$type<CheckReport>(),
  },
  (t) => [
    index('safe_copies_physical').on(t.physical),
    uniqueIndex('safe_copies_destination').on(t.offload, t.destination),
  ],
);

/** Each time a file of a copy was written or checked: a row for each, the newest counts. */
export const copyReadings = pgTable(
  'copy_readings',
  {
    seq: bigserial({ mode: 'number' }).primaryKey(),
    copy: text()
      .notNull()
      .references(() => safeCopies.id, { onDelete: 'cascade' }),
    /** The file's number in the card's manifest. */
    number: integer().notNull(),
    at: at('at').notNull(),
    how: text().$type<CopyReading['how']>().notNull(),
    result: text().$type<CopyReading['result']>().notNull(),
    kind: text().$type<HashKind>(),
    /** Hash of what was read back from the copy; null where it was not read. */
    value: text(),
    size: whole().notNull(),
    modified: whole().notNull(),
  },
  (t) => [index('copy_readings_file').on(t.copy, t.number)],
);

export const plans = pgTable('plans', {
  id: text().primaryKey(),
  job: ofJob(),
  kind: text().$type<'name' | 'undo'>().notNull(),
  state: text().$type<PlanState>().notNull(),
  /** The plan this one takes back. */
  undoes: text(),
  madeAt: at('made_at').notNull(),
  endedAt: at('ended_at'),
});

export const steps = pgTable(
  'steps',
  {
    plan: text()
      .notNull()
      .references(() => plans.id, { onDelete: 'cascade' }),
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
  },
  (t) => [uniqueIndex('steps_number').on(t.plan, t.number)],
);

export const log = pgTable(
  'log',
  {
    id: text().primaryKey(),
    /** The job it was done in; null for what concerns all of them. */
    job: text().references(() => jobs.id),
    at: at('at').notNull(),
    who: text().notNull(),
    kind: text().$type<LogKind>().notNull(),
    text: text().notNull(),
    plan: text(),
  },
  (t) => [index('log_at').on(t.job, t.at)],
);
