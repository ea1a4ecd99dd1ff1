import { sql } from 'drizzle-orm';
import {
  bigserial,
  boolean,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uniqueIndex,
} from 'drizzle-orm/pg-core';
import type { AsideFile, ClipKind, FileRole } from '../../core/intake';
import { physicalCards } from '../custody/tables';
import { ofJob } from '../jobs/tables';
import { roots } from '../places/tables';
import { at, whole } from '../platform/db/columns';

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
    /** Where it was when it was taken in, in the same root or a source; null for what Sort Shelf made. */
    takenRoot: text(),
    takenPath: text(),
    suffix: text().notNull(),
    size: whole().notNull(),
    modified: whole().notNull(),
    /** Fingerprint of its contents (`sampleOf`); null where none was taken. */
    sample: text(),
    /** The physical card it is still on: its place is where that card was last, and another card may be there now. Null elsewhere. */
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

/**
 * Where files are, were, and were taken from: a row for each place, which ends when a file is known to be there no more. A file
 * may be at several places: on its card, in safe copies, on the shelf. Its own row says from which it is used.
 */
export const places = pgTable(
  'places',
  {
    seq: bigserial({ mode: 'number' }).primaryKey(),
    file: text()
      .notNull()
      .references(() => files.id, { onDelete: 'cascade' }),
    /** Null for what is on a card, wherever that is. A root may be removed; what was there is told all the same. */
    root: text(),
    /** Below the root, or below the card's folder. */
    path: text().notNull(),
    /** The physical card it is on; null elsewhere. */
    onCard: text(),
    /** The safe copy it is in; null elsewhere. */
    copy: text(),
    since: at('since').notNull().defaultNow(),
    until: at('until'),
  },
  (t) => [
    index('places_file').on(t.file),
    uniqueIndex('places_open')
      .on(t.file, sql`coalesce(root, '')`, t.path, sql`coalesce(on_card, '')`)
      .where(sql`until is null`),
    index('places_card')
      .on(t.onCard, t.path)
      .where(sql`on_card is not null`),
  ],
);
