import { sql } from 'drizzle-orm';
import {
  bigserial,
  boolean,
  doublePrecision,
  foreignKey,
  index,
  integer,
  jsonb,
  pgEnum,
  pgTable,
  primaryKey,
  serial,
  text,
} from 'drizzle-orm/pg-core';
import { type Brief, FIELDS, type FieldId, Source, type Statement, type Value } from '../../core/facts';
import { cameras, clips } from '../cards/tables';
import { ofJob } from '../jobs/tables';
import { written } from '../platform/db/columns';

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
    /** The name it is under, and that as it is sorted. */
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
 * A clip's facts, a row for each field and source: what was read, what the person says, what is on disk, and what follows from
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
