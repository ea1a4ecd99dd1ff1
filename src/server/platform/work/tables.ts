import { sql } from 'drizzle-orm';
import { boolean, doublePrecision, index, integer, jsonb, pgTable, text } from 'drizzle-orm/pg-core';
import type { ProblemDetails, WorkKind, WorkState } from '../../../core/platform/shapes';
import { clips } from '../../cards/tables';
import { ofJob } from '../../jobs/tables';
import { at, written } from '../db/columns';

/** What happened to a piece of work beside its beginning and end. */
export interface WorkNote {
  at: string;
  text: string;
}

/** All long work, one row a piece: what the person sees of it, and what survives the server. */
export const work = pgTable(
  'work',
  {
    id: text().primaryKey(),
    job: ofJob(),
    kind: text().$type<WorkKind>().notNull(),
    /** What it is about: a clip's id, a copying's, a copy's, a plan's; empty where it is about none in particular. */
    subject: text().notNull(),
    /** The clip it is about, with which it goes; null where it is about none. */
    clip: text().references(() => clips.id, { onDelete: 'cascade' }),
    state: text().$type<WorkState>().notNull(),
    /** What was asked for. */
    wanted: written<unknown>(),
    /** What it has to itself while it runs. */
    needs: jsonb().$type<string[]>().notNull().default([]),
    /** Who works on it, while somebody does. */
    worker: text(),
    /** What a person wants of it while another server works on it. */
    wish: text().$type<'cancelled' | 'paused'>(),
    /** Its turn among the jobs' work (`Turns`), and whether the queue was told of it. */
    turn: integer().notNull().default(0),
    handedOut: boolean().notNull().default(false),
    /** 0 to 1. */
    progress: doublePrecision().notNull().default(0),
    /** Seconds of footage per second of work. */
    speed: doublePrecision(),
    fault: text(),
    /** What came of it, and what went wrong, for who asked for it. */
    result: written<unknown>(),
    problem: written<ProblemDetails>(),
    notes: jsonb().$type<WorkNote[]>().notNull().default([]),
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
    index('work_subject')
      .on(t.kind, t.subject)
      .where(sql`clip is null`),
  ],
);
export type WorkRow = typeof work.$inferSelect;
