import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<
  Services,
  'home' | 'db' | 'database' | 'events' | 'viewCache' | 'queue' | 'devices' | 'exclusively' | 'who'
>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
/** The same, where what a person says can be taken back. */
export type Correcting = InJob & Pick<Services, 'saidBack'>;
