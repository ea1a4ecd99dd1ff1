import { doublePrecision, index, integer, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import type { BinLabel, RangeKind, RuleKind } from '../../core/choose';
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
    /** Where it is listed in its group, before those by name that nobody put anywhere; null for none of its own. */
    place: integer(),
    /** `person`, or the rule it was made by: it goes when nothing has it any more. */
    by: text().notNull().default('person'),
    /** What it was called before, a line each, as `key`: rules still mean it by that. */
    formerly: text().notNull().default(''),
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

/** Keywords that a person took from a clip which a rule gives them to: it is not given again. */
export const withheld = pgTable(
  'withheld',
  {
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    keyword: text()
      .notNull()
      .references(() => keywords.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ columns: [t.clip, t.keyword] }), index('withheld_keyword').on(t.keyword)],
);

/** By what clips are given keywords (`Rule`). */
export const keywordRules = pgTable(
  'keyword_rules',
  {
    id: text().primaryKey(),
    job: ofJob(),
    kind: text().$type<RuleKind>().notNull(),
    words: text().notNull(),
    query: text().notNull(),
    field: text().notNull(),
    levels: text().notNull(),
    without: text().notNull(),
  },
  (t) => [index('keyword_rules_job').on(t.job)],
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

/** Clips that ran at once, as a person says: that they did, or (`apart`) that they did not. */
export const together = pgTable(
  'together',
  {
    id: text().primaryKey(),
    job: ofJob(),
    state: text().$type<'confirmed' | 'apart'>().notNull(),
  },
  (t) => [index('together_job').on(t.job)],
);

export const rolling = pgTable(
  'rolling',
  {
    /** With which others it is. */
    together: text()
      .notNull()
      .references(() => together.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    /** Seconds from the beginning of the first of them to its own. */
    offset: doublePrecision().notNull(),
  },
  (t) => [primaryKey({ columns: [t.together, t.clip] }), index('rolling_clip').on(t.clip)],
);

/** What the sound of two clips says of when they began. */
export const soundChecks = pgTable(
  'sound_checks',
  {
    a: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    b: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    /** Of which states of their files. */
    of: text().notNull(),
    /** Seconds from the beginning of the first to that of the second; null where their sound does not tell. */
    offset: doublePrecision(),
    /** How much alike they are there, from 0 to 1. */
    alike: doublePrecision().notNull(),
  },
  (t) => [primaryKey({ columns: [t.a, t.b] }), index('sound_checks_b').on(t.b)],
);
