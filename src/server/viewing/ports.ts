import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<
  Services,
  'home' | 'db' | 'database' | 'events' | 'queue' | 'exclusively' | 'who' | 'devices'
>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
