import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<Services, 'home' | 'db'>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
