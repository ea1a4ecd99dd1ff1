import { sql } from 'drizzle-orm';
import { boolean, integer, jsonb, pgTable, serial, text, uniqueIndex } from 'drizzle-orm/pg-core';
import type { Trust } from '../../core/facts';
import { DEFAULT_INTAKE, type IntakeRules } from '../../core/intake';
import {
  Convention,
  DEFAULT_CONVENTION,
  DEFAULT_FOLDER_PLAN,
  FolderPlan,
  NamingMore,
} from '../../core/naming';
import { DEFAULT_PROXIES, ProxyRules } from '../../core/proxies';
import type { Rate } from '../../core/platform/timecode/rate';
import { at, shaped } from '../platform/db/columns';

export const jobs = pgTable(
  'jobs',
  {
    id: text().primaryKey(),
    /** Its number in this database, for its facts. */
    number: serial().notNull().unique(),
    name: text().notNull(),
    /** Names it in addresses; no other job has it, whatever its case. */
    code: text().notNull(),
    createdAt: at('begun_at').notNull().defaultNow(),
    /** When it was archived; null while it is open. */
    putAwayAt: at('put_away_at'),
    /** Minutes the job's clocks are ahead of UTC. */
    zoneMinutes: integer().notNull(),
    /** A damaged one is the first convention again: a job can always be opened. */
    convention: shaped(Convention.catch(DEFAULT_CONVENTION)).notNull(),
    folderPlan: shaped(FolderPlan.catch(DEFAULT_FOLDER_PLAN)).notNull(),
    /** Rules for some clips, and the file systems names have to fit. */
    naming: shaped(NamingMore.catch({ rules: [], systems: [] }))
      .notNull()
      .default({ rules: [], systems: [] }),
    /** What needs a proxy, and by which recipe it is made. */
    proxies: shaped(ProxyRules.catch(DEFAULT_PROXIES)).notNull().default(DEFAULT_PROXIES),
    /** How cards are recognised and copied. */
    intake: jsonb().$type<IntakeRules>().notNull().default(DEFAULT_INTAKE),
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
export const ofJob = () =>
  text()
    .notNull()
    .references(() => jobs.id);
