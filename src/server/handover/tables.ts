import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex } from 'drizzle-orm/pg-core';
import type { CheckReport } from '../../core/custody';
import type { Form, ImageOf, Media, NewPackage, Remark, SendingState } from '../../core/handover';
import type { Rate } from '../../core/platform/timecode/rate';
import { clips } from '../cards/tables';
import { ofJob } from '../jobs/tables';
import { roots } from '../places/tables';
import { at, whole } from '../platform/db/columns';

/** Timelines that came back from an edit, as they came: what they say of clips follows from that. */
export const edits = pgTable(
  'edits',
  {
    id: text().primaryKey(),
    job: ofJob(),
    /** What it calls itself, else its file's name. */
    name: text().notNull(),
    file: text().notNull(),
    format: text().$type<'edl' | 'otio'>().notNull(),
    text: text().notNull(),
    /** At which a list is read, which does not say it. */
    rate: jsonb().$type<Rate>(),
    /** Whether that was guessed, and by no person. */
    guessed: boolean().notNull().default(false),
    readAt: at('read_at').notNull(),
  },
  (t) => [index('edits_job').on(t.job)],
);

/** Which frames of which clips an edit uses, frames of the original from 0; stretches of a clip that touch are one. */
export const editUses = pgTable(
  'edit_uses',
  {
    edit: text()
      .notNull()
      .references(() => edits.id, { onDelete: 'cascade' }),
    clip: text()
      .notNull()
      .references(() => clips.id, { onDelete: 'cascade' }),
    from: integer().notNull(),
    to: integer().notNull(),
  },
  (t) => [primaryKey({ columns: [t.edit, t.clip, t.from] }), index('edit_uses_clip').on(t.clip)],
);

/** Forms that were kept, of the library. */
export const forms = pgTable('forms', {
  id: text().primaryKey(),
  name: text().notNull().unique(),
  form: jsonb().$type<Form>().notNull(),
});

/** What was handed over to one place, once or several times. */
export const packages = pgTable(
  'packages',
  {
    id: text().primaryKey(),
    job: ofJob(),
    /** What its set was called when it was sent last. */
    name: text().notNull(),
    wanted: jsonb().$type<NewPackage>().notNull(),
    root: text()
      .notNull()
      .references(() => roots.id),
    folder: text().notNull(),
    madeAt: at('made_at').notNull(),
    /** What the last check at its place found. */
    check: jsonb().$type<CheckReport>(),
  },
  (t) => [index('packages_job').on(t.job), uniqueIndex('packages_place').on(t.root, t.folder)],
);

/** The times that packages were sent: what went, and what did not. */
export const sendings = pgTable(
  'sendings',
  {
    package: text()
      .notNull()
      .references(() => packages.id, { onDelete: 'cascade' }),
    /** From 1. */
    number: integer().notNull(),
    who: text().notNull(),
    state: text().$type<SendingState>().notNull(),
    fault: text(),
    /** As it was planned: files that were new at the place, had changed, stood there, and belong to it no more; bytes to be copied. */
    fresh: integer().notNull(),
    changed: integer().notNull(),
    same: integer().notNull(),
    left: integer('left_there').notNull(),
    bytes: whole().notNull(),
    remarks: jsonb().$type<Remark[]>().notNull(),
    queuedAt: at('queued_at').notNull(),
    startedAt: at('started_at'),
    endedAt: at('ended_at'),
  },
  (t) => [primaryKey({ columns: [t.package, t.number] })],
);

/** The files of packages, as their sources were when they were sent, and as they stand at their place. */
export const packageFiles = pgTable(
  'package_files',
  {
    package: text()
      .notNull()
      .references(() => packages.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    /** Below the package's folder. */
    place: text().notNull(),
    what: text().$type<Media | 'list'>().notNull(),
    /** The file of a clip, which may be gone since, or which list it is. */
    file: text().notNull(),
    /** The clip it is of; null of a list. */
    clip: text(),
    root: text().notNull(),
    path: text().notNull(),
    onCard: text('on_card'),
    size: whole().notNull(),
    modified: whole().notNull(),
    /** The frame of the file that goes as an image, and what that is made from; null where the file goes as it is. */
    image: jsonb().$type<ImageOf>(),
    state: text().$type<'waiting' | 'verified' | 'failed' | 'left'>().notNull(),
    /** Of what stands at its place; null before there is any. */
    hash: text(),
    /** How it stood there when it was verified: by which it is known for what was sent, where it is to be replaced. */
    stoodSize: whole('stood_size'),
    stoodModified: whole('stood_modified'),
    /** The sending it came with last, and whether it took the place of what an earlier one had brought. */
    sending: integer().notNull(),
    replaces: boolean().notNull().default(false),
    fault: text(),
  },
  (t) => [
    primaryKey({ columns: [t.package, t.number] }),
    uniqueIndex('package_files_place').on(t.package, t.place),
  ],
);
