import { doublePrecision, index, integer, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import type { BinLabel, RangeKind } from '../../core/choose';
import { clips } from '../cards/tables';
import { ofJob } from '../jobs/tables';

// Names of columns are one word each: rows are written whole, as JSON of them (`rows.ts`).

export const keywords = pgTable(
  'keywords',
  {
    id: text().primaryKey(),
    job: ofJob(),
    name: text().notNull(),
    /** What tells it from others (`keywordKey`). */
    key: text().notNull(),
    /** The group of words it is listed in; empty for none. */
    family: text().notNull().default(''),
    /** The key from 1 to 9 that gives it; null for none. */
    hotkey: integer(),
  },
  (t) => [uniqueIndex('keywords_key').on(t.job, t.key)],
);

/** Which clips, and which ranges of them, have a keyword: a row for each of those who gave it. */
export const keyworded = pgTable(
  'keyworded',
  {
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    keyword: text()
      .notNull()
      .references(() => keywords.id, { onDelete: 'cascade' }),
    /** The range of the clip that has it; empty for all of it. */
    range: text().notNull().default(''),
    /** `person`, or the rule that gave it, which alone takes it back. */
    by: text().notNull().default('person'),
  },
  (t) => [
    primaryKey({ columns: [t.clip, t.keyword, t.range, t.by] }),
    index('keyworded_keyword').on(t.keyword),
  ],
);

/** A stretch of a clip that something is said of, in frames of its original. */
export const ranges = pgTable(
  'ranges',
  {
    id: text().primaryKey(),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    kind: text().$type<RangeKind>().notNull(),
    /** The first frame, and the one after the last. */
    from: integer().notNull(),
    to: integer().notNull(),
    name: text().notNull().default(''),
    note: text().notNull().default(''),
  },
  (t) => [index('ranges_clip').on(t.clip)],
);

export const bins = pgTable(
  'bins',
  {
    id: text().primaryKey(),
    job: ofJob(),
    /** The bin it stands in; null at the top. */
    parent: text(),
    name: text().notNull(),
    label: text().$type<BinLabel>(),
    note: text().notNull().default(''),
  },
  (t) => [index('bins_job').on(t.job)],
);

export const binned = pgTable(
  'binned',
  {
    bin: text()
      .notNull()
      .references(() => bins.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ columns: [t.bin, t.clip] }), index('binned_clip').on(t.clip)],
);

/** A search that is kept, and stays true as clips come and go. */
export const searches = pgTable(
  'searches',
  {
    id: text().primaryKey(),
    job: ofJob(),
    name: text().notNull(),
    query: text().notNull(),
  },
  (t) => [index('searches_job').on(t.job)],
);

/** An ordered list of stretches of clips, to be played one after the other. */
export const stringOuts = pgTable(
  'string_outs',
  {
    id: text().primaryKey(),
    job: ofJob(),
    name: text().notNull(),
  },
  (t) => [index('string_outs_job').on(t.job)],
);

export const strung = pgTable(
  'strung',
  {
    id: text().primaryKey(),
    /** The string-out it is in. */
    list: text()
      .notNull()
      .references(() => stringOuts.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    /** Frames of the original: the first, and the one after the last. */
    from: integer().notNull(),
    to: integer().notNull(),
    /** By which they are in order. */
    place: doublePrecision().notNull(),
  },
  (t) => [index('strung_list').on(t.list, t.place)],
);
