import { boolean, index, integer, jsonb, pgTable, primaryKey, text } from 'drizzle-orm/pg-core';
import type { Rate } from '../../core/platform/timecode/rate';
import { clips } from '../cards/tables';
import { ofJob } from '../jobs/tables';
import { at } from '../platform/db/columns';

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
