import {
  bigserial,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uniqueIndex,
} from 'drizzle-orm/pg-core';
import type { Cannot, CheckReport, CopyReading } from '../../core/custody';
import type { HashKind } from '../../core/hashLists';
import type { Verification } from '../../core/offload';
import type { DiskIdentity } from '../../core/platform/disks';
import { at, whole } from '../platform/db/columns';

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
  /** The disk it is on, which is wiped with it; null where that is the system's own volume, which is not. */
  disk: jsonb().$type<DiskIdentity>(),
  /** Whether the folder is all of its volume, and what else is on the volume outside of it. */
  wholeVolume: boolean().notNull(),
  outside: jsonb().$type<string[]>().notNull(),
  /** What could not be copied or looked at, when it was offered last. */
  cannot: jsonb().$type<Cannot[]>().notNull(),
  firstSeen: at('first_seen').notNull(),
  lastSeen: at('last_seen').notNull(),
});

/** The manifest of a physical card: everything that ever was on it. A row is never altered but for `goneAt`. */
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

/** A safe copy of a physical card, made by one copying: what it proves is in `copyReadings`. */
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
    /** The volume and the disks it was on when it was made or checked last. */
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
