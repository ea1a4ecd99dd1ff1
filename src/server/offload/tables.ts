import { doublePrecision, index, integer, jsonb, pgTable, text, uniqueIndex } from 'drizzle-orm/pg-core';
import type { Cannot } from '../../core/custody';
import type { ChosenHash } from '../../core/hashLists';
import type { OffloadDestination, OffloadState, Verification } from '../../core/offload';
import { physicalCards } from '../custody/tables';
import { ofJob } from '../jobs/tables';
import { at, whole } from '../platform/db/columns';

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
    /** What is not a regular file, with the reason it cannot be copied. */
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

/** The files of a copying, as they were on the card when it was begun. */
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
