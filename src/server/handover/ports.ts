import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<
  Services,
  | 'home'
  | 'db'
  | 'database'
  | 'events'
  | 'viewCache'
  | 'queue'
  | 'devices'
  | 'exclusively'
  | 'keepNow'
  | 'heedRecords'
  | 'who'
  | 'undos'
  | 'saidBack'
>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
