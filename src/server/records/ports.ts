import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<
  Services,
  | 'home'
  | 'checkHome'
  | 'db'
  | 'events'
  | 'queue'
  | 'devices'
  | 'recover'
  | 'exclusively'
  | 'distrustCopies'
  | 'who'
>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
/** A job is begun in full. */
export type CopyPorts = Services;
