import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<Services, 'db' | 'events'>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
