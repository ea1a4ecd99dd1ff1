import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Services;
/** The same, in a job. */
export type InJob = Ports & OfJob;
