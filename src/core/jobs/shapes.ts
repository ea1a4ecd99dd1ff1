import * as z from 'zod';
import { CameraLabel } from '../platform/cameraLabel';
import { Rate } from '../platform/timecode/rate';
import { Trust } from '../facts';
import { Convention, FolderPlan, NamingMore } from '../naming';
import { IntakeRules } from '../intake';
import { ProxyRules } from '../proxies';
import { RootView } from '../places';

export const JobView = z.object({
  id: z.string(),
  /** When it was archived; null while it is open. */
  putAwayAt: z.iso.datetime().nullable(),
  name: z.string(),
  code: z.string(),
  zoneMinutes: z.int(),
  /** The hour at which a day begins, the rate of the edit (null while nothing tells), and the person's order of trust. */
  dayStart: z.int(),
  rate: Rate.nullable(),
  trust: Trust,
  convention: Convention,
  folderPlan: FolderPlan,
  naming: NamingMore,
  proxies: ProxyRules,
  intake: IntakeRules,
  days: z.array(z.object({ number: z.int(), date: z.string().nullable() })),
  cameras: z.array(z.object({ label: z.string(), model: z.string().nullable() })),
  roots: z.array(RootView),
});
export type JobView = z.infer<typeof JobView>;

/** A job in the list of all. */
export const JobSummary = z.object({
  name: z.string(),
  code: z.string(),
  createdAt: z.iso.datetime(),
  putAwayAt: z.iso.datetime().nullable(),
  /** When something was done in it last, by its logbook. */
  lastAt: z.iso.datetime(),
  days: z.int(),
  cards: z.int(),
  clips: z.int(),
});
export type JobSummary = z.infer<typeof JobSummary>;

const code = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9-]{1,12}$/, 'a job code is one to twelve letters, digits or dashes');
export const NewJob = z.object({
  name: z.string().trim().min(1, 'give the job a name').max(120),
  code,
  /** Minutes the job's clocks are ahead of UTC; where the server is when absent. */
  zoneMinutes: z.int().min(-840).max(840).optional(),
  /** The rate of the edit; from the footage when absent. */
  rate: Rate.nullable().optional(),
  cameras: z
    .array(z.object({ label: CameraLabel, model: z.string().max(80) }))
    .max(26)
    .optional(),
});
export type NewJob = z.infer<typeof NewJob>;
export const JobAction = z.object({ action: z.enum(['putAway', 'takeUp']) });
export type JobAction = z.infer<typeof JobAction>;
export const JobSettings = z.object({
  convention: Convention.optional(),
  folderPlan: FolderPlan.optional(),
  naming: NamingMore.optional(),
  proxies: ProxyRules.optional(),
  intake: IntakeRules.optional(),
  dayStart: z.int().min(0).max(23).optional(),
  rate: Rate.nullable().optional(),
  trust: Trust.optional(),
  /** Whether copies on drives that are offline count, as they were last seen. */
  offlineCounts: z.boolean().optional(),
  /** Whether servers of different addresses are different ones. */
  serversApart: z.boolean().optional(),
});
export type JobSettings = z.infer<typeof JobSettings>;
